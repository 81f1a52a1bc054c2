import type { ConfiguredAction } from './state/playbook'
import type { ReactionContext } from './state/reactionContext'

/** Does each of the actions, in order; one that is refused (by a gate) is left out and said. */
export function eachAction(
  context: ReactionContext,
  actions: readonly ConfiguredAction[],
  does: (action: ConfiguredAction) => void,
): void {
  for (const action of actions) {
    const mark = context.effects.length
    does(action)
    const [problem] = context.problems.splice(0)
    if (!problem) continue
    context.takeBack(mark)
    context.skip(problem.message)
  }
}
