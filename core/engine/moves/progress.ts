import type { ExitReason } from '../../enumerations'
import type { Id, Instant } from '../../instant'
import { nextStep } from '../../cadence/route'
import { stepInsteadOf, versionAt, type Cadence, type Step, type Way } from '../../cadence/steps'
import { afterWait } from '../../cadence/wait'
import type { ReactionContext } from '../state/reactionContext'
import type { Cause } from '../state/effects'
import { openEnrollments, placeOf, type Enrollment, type Prospect } from '../state/engineState'
import { wayTaken } from './branches'
import { cancelDelayed, STARTS } from './delayed'
import { gateFacts, lackingAt } from './gates'
import { withdraw, withdrawAll } from './withdraw'
import { replacePlans } from './work'

/** The moves that several reactions share. Each records effects in the context and returns nothing but what it made. */

/** The cadence of an enrollment, with the steps of the version it is in. */
export function cadenceOf({ playbook }: Pick<ReactionContext, 'playbook'>, enrollment: Enrollment): Cadence | null {
  const cadence = playbook.cadences[enrollment.cadenceId]
  return cadence ? versionAt(cadence, enrollment.stepId) : null
}

/** The step an enrollment is at; null where that has been deleted. */
export function currentStep(cadence: Cadence, enrollment: Enrollment): Step | null {
  return cadence.steps.find((step) => step.id === enrollment.stepId) ?? null
}

/** Moves a person to a stage through its gate. What the gate lacks becomes a problem unless it is overridden. */
export function moveStage(
  context: ReactionContext,
  prospect: Prospect,
  to: Id,
  given: { reason: string | null; note: string | null; override?: string | null },
  cause: Cause,
): void {
  const stage = context.playbook.stages[to]
  if (!stage) return context.refuse('stage', 'There is no such stage')
  if (prospect.stageId === to) return
  if (stage.archived) return context.refuse('stage', `${stage.name} is archived`)
  const missing = given.override ? [] : lackingAt(context, stage, gateFacts(context, prospect, given))
  for (const { field, message } of missing) context.refuse(field, message)
  context.change('moveStage', 'prospect', prospect.id, { stageId: to }, cause)
  const law: Cause = { source: 'system_rule', rule: 'stageClosed', values: { stageId: stage.id } }
  if (stage.kind === 'closed') {
    endAll(context, prospect, [], 'not_a_fit', law)
    withdrawAll(context, prospect, law)
  }
  if (stage.kind === 'won') replacePlans(context, prospect, ['first_contact', 'follow_up'], law)
}

/** Ends an enrollment and takes its open work back. */
export function endEnrollment(context: ReactionContext, enrollment: Enrollment, exit: ExitReason, cause: Cause): void {
  if (enrollment.status === 'ended') return
  context.change(
    'endEnrollment',
    'enrollment',
    enrollment.id,
    { status: 'ended', dueAt: null, endedAt: context.now, exit },
    cause,
  )
  withdraw(context, enrollment, cause)
}

/** Ends every open enrollment of the person; and with `company`, of everyone there. Returns nobody twice. */
export function endAll(
  context: ReactionContext,
  prospect: Prospect,
  people: readonly Prospect[],
  exit: ExitReason,
  cause: Cause,
): void {
  for (const person of [prospect, ...people]) {
    cancelDelayed(context, person, STARTS, cause)
    for (const enrollment of openEnrollments(context.state, person.id)) {
      endEnrollment(context, enrollment, exit, cause)
    }
  }
}

/** Sends an enrollment on to the step after the one in hand, or ends it as finished after the last. */
export function advance(context: ReactionContext, prospect: Prospect, enrollment: Enrollment, cause: Cause): void {
  const cadence = cadenceOf(context, enrollment)
  const here = cadence && currentStep(cadence, enrollment)
  const next = cadence && (here ? nextStep(cadence, here) : stepInsteadOf(cadence, enrollment.stepId))
  if (!cadence || !next) return endEnrollment(context, enrollment, 'finished', cause)
  waitFor(context, prospect, enrollment, cadence, next, 'moveEnrollment', cause)
}

/**
 * Lets an enrollment wait for a step. A branch that is decided at once is gone through, where what its ways ask is
 * known; the step behind it is the one that is waited for. Gives when it falls due; null where the cadence is through.
 */
export function waitFor(
  context: ReactionContext,
  prospect: Prospect,
  enrollment: Enrollment,
  cadence: Cadence,
  step: Step,
  kind: 'moveEnrollment' | 'skipStep',
  cause: Cause,
): Instant | null {
  const dueAt = afterWait(context.now, step.wait, placeOf(prospect), context.playbook.holidays)
  const way = step.kind === 'branch' && dueAt <= context.now ? wayTaken(context, enrollment, step) : null
  if (!way) {
    context.change(kind, 'enrollment', enrollment.id, { status: 'waiting', stepId: step.id, dueAt }, cause)
    return dueAt
  }
  const next = nextStep(cadence, step, way)
  const because = takesWay(step, way)
  if (next) return waitFor(context, prospect, enrollment, cadence, next, 'moveEnrollment', because)
  endEnrollment(context, enrollment, 'finished', because)
  return null
}

/** Why an enrollment goes on as it does behind a branch. */
export const takesWay = (branch: Step, way: Way): Cause => ({
  source: 'step',
  id: branch.id,
  rule: 'wayTaken',
  values: { stepId: branch.id, wayId: way.id },
})
