import { perform } from '../actions/registry'
import type { Id } from '../instant'
import type { ReactionContext } from './state/reactionContext'
import type { Enrollment } from './state/engineState'
import type { ConfiguredAction } from './state/playbook'

/**
 * Does what a cadence says of those who are through, for everyone whom this event took past its last step. Who left
 * before that is not among them. An action that is refused (a gate) is left out and said.
 */
export function afterLastSteps(context: ReactionContext): void {
  const { afterLast } = context.playbook
  const through = context.effects.filter(
    (effect) => effect.kind === 'endEnrollment' && (effect.after as Partial<Enrollment>).exit === 'finished',
  )
  for (const { id } of through) {
    const enrollment = context.state.enrollment[id]!
    const prospect = context.state.prospect[enrollment.prospectId]!
    const stageBefore = prospect.stageId
    const about = { phoneId: null, details: {}, outcome: null, enrollment }
    for (const action of afterLast[enrollment.cadenceId] ?? []) {
      const mark = context.effects.length
      perform({ context, prospect, stageBefore, ...about, cause: { source: 'cadence', id: enrollment.cadenceId } }, [
        action,
      ])
      const [problem] = context.problems.splice(0)
      if (!problem) continue
      context.takeBack(mark)
      context.skip(problem.message)
    }
  }
}

/**
 * A cadence that starts itself again behind its last step, by way of others: the cadences on the way round, the first
 * one last too. Null where there is none.
 */
export function circleOfCadences(afterLast: Readonly<Record<Id, readonly ConfiguredAction[]>>): Id[] | null {
  const starts = (id: Id) =>
    (afterLast[id] ?? []).flatMap((action) =>
      action.type === 'startCadence' ? [(action as ConfiguredAction & { cadenceId: Id }).cadenceId] : [],
    )
  const walk = (id: Id, way: readonly Id[]): Id[] | null => {
    if (way.includes(id)) return [...way.slice(way.indexOf(id)), id]
    for (const next of starts(id)) {
      const found = walk(next, [...way, id])
      if (found) return found
    }
    return null
  }
  for (const id of Object.keys(afterLast)) {
    const found = walk(id, [])
    if (found) return found
  }
  return null
}
