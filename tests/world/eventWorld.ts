import { evolve, type Effect } from '../../core/engine/effects'
import type { Happening } from '../../core/engine/happenings'
import { react } from '../../core/engine/react'
import { ofProspect, openEnrollments, type Situation } from '../../core/engine/situation'
import { undoLawfully } from '../../core/engine/undo'
import { counter, playbook, situation } from './situations'

/** A small world that things happen in, one after the other. */
export function world(book = playbook()) {
  let now = situation()
  const newId = counter()
  const eventId = counter('event')
  return {
    book,
    get now() {
      return now
    },
    put(change: Partial<Situation>) {
      now = { ...now, ...change }
    },
    at(moment: number) {
      now = { ...now, now: moment }
    },
    happen(event: Omit<Happening, 'id' | 'at' | 'actorId' | 'causeId'> & { kind: Happening['kind'] }): {
      effects: Effect[]
      problems: string[]
    } {
      const { effects, problems } = react(
        { id: eventId(), at: now.now, actorId: 'rep', causeId: null, ...event } as Happening,
        now,
        book,
        newId,
      )
      now = evolve(now, effects)
      return { effects, problems: problems.map((problem) => problem.message) }
    },
    undo(effects: readonly Effect[], prospectId: string) {
      const undoing = undoLawfully(
        [...effects].reverse(),
        now,
        book,
        { id: eventId(), kind: 'undone', at: now.now, prospectId, actorId: 'rep', causeId: null, targetId: 'x' },
        newId,
      )
      now = evolve(now, undoing.effects)
      return undoing
    },
    enrollment: (who: string) => ofProspect(now, 'enrollment', who).at(-1)!,
    tasks: (who: string) =>
      ofProspect(now, 'task', who)
        .filter((task) => task.state === 'open')
        .map((task) => task.kind),
    messages: (who: string) => ofProspect(now, 'message', who).map((message) => message.state),
    due(who: string) {
      const row = openEnrollments(now, who)[0]!
      now = { ...now, now: Math.max(now.now, row.dueAt ?? 0) }
      return this.happen({ kind: 'stepDue', prospectId: who, enrollmentId: row.id } as never)
    },
  }
}
