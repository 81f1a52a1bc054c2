import { evolve, type Effect } from '../../core/engine/effects'
import type { DomainEvent } from '../../core/engine/events'
import { react } from '../../core/engine/react'
import { ofProspect, openEnrollments, type EngineState } from '../../core/engine/engineState'
import { undoLawfully } from '../../core/engine/undo'
import { counter, playbook, state } from './engineStates'

/** A small world that things happen in, one after the other. */
export function world(book = playbook()) {
  let now = state()
  const newId = counter()
  const eventId = counter('event')
  return {
    book,
    get now() {
      return now
    },
    put(change: Partial<EngineState>) {
      now = { ...now, ...change }
    },
    at(moment: number) {
      now = { ...now, now: moment }
    },
    happen(event: Omit<DomainEvent, 'id' | 'at' | 'actorId' | 'causedByEventId'> & { kind: DomainEvent['kind'] }): {
      effects: Effect[]
      problems: string[]
    } {
      const { effects, problems } = react(
        { id: eventId(), at: now.now, actorId: 'rep', causedByEventId: null, ...event } as DomainEvent,
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
        {
          id: eventId(),
          kind: 'undone',
          at: now.now,
          prospectId,
          actorId: 'rep',
          causedByEventId: null,
          targetId: 'x',
        },
        newId,
      )
      now = evolve(now, undoing.effects)
      return undoing
    },
    enrollment: (who: string) => ofProspect(now, 'enrollment', who).at(-1)!,
    tasks: (who: string) =>
      ofProspect(now, 'task', who)
        .filter((task) => task.status === 'open')
        .map((task) => task.kind),
    messages: (who: string) => ofProspect(now, 'emailMessage', who).map((message) => message.status),
    due(who: string) {
      const row = openEnrollments(now, who)[0]!
      now = { ...now, now: Math.max(now.now, row.dueAt ?? 0) }
      return this.happen({ kind: 'stepDue', prospectId: who, enrollmentId: row.id } as never)
    },
  }
}
