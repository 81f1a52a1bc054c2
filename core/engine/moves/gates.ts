import { missingRequirements, type GateFacts, type MissingRequirement, type Stage } from '../../stage/gate'
import type { Id } from '../../instant'
import { attemptsOf, ofProspect, usableEmail, wasReached, type Prospect } from '../state/engineState'
import type { ReactionContext } from '../state/reactionContext'

/** What the gate of a stage still lacks. */
export function lackingAt({ playbook }: ReactionContext, stage: Stage, facts: GateFacts): MissingRequirement[] {
  return missingRequirements(stage, facts, playbook.customFields, playbook.stages)
}

/** Everything a gate looks at. */
export function gateFacts(
  context: ReactionContext,
  prospect: Prospect,
  given: { reason: string | null; note: string | null },
) {
  const { state } = context
  return {
    stageId: state.prospect[prospect.id]!.stageId,
    attempts: attemptsOf(state, prospect.id),
    reached: wasReached(state, prospect.id),
    reason: given.reason,
    note: given.note,
    fields: factsFor(context, prospect),
  }
}

/**
 * What gates may demand of a person: their own columns, an address and a number that can be used, the team's own
 * fields.
 */
export function factsFor({ state }: ReactionContext, prospect: Prospect): Readonly<Record<string, unknown>> {
  const phone = ofProspect(state, 'phone', prospect.id).find(
    (one) => one.status === 'unverified' || one.status === 'correct',
  )
  return {
    ...prospect,
    email: usableEmail(state, prospect.id)?.address,
    phone: phone?.number,
    ...Object.fromEntries(ofProspect(state, 'customValue', prospect.id).map(({ field, value }) => [field, value])),
  }
}

/**
 * The first touch moves a new prospect to the stage the playbook names, through its gate: an outcome that is
 * logged asks for what is missing of them, and after any other touch they stay where they are until it is there.
 */
export function startWork(context: ReactionContext, prospect: Prospect): void {
  const { firstTouch: first, stages } = context.playbook
  const stage = first && context.state.prospect[prospect.id]!.stageId === first.from ? stages[first.to] : undefined
  if (!stage) return
  const { event } = context
  const details = (event.kind === 'callLogged' || event.kind === 'taskDone' ? event.details : null) ?? {}
  const given = { reason: details.reason ?? null, note: details.note ?? null }
  const missing = lackingAt(context, stage, gateFacts(context, prospect, given))
  if (event.kind === 'callLogged' || (event.kind === 'taskDone' && event.outcomeId)) {
    for (const { field, message } of missing) if (field !== 'stage') context.refuse(field, message)
  }
  if (missing.length) return
  context.change(
    'moveStage',
    'prospect',
    prospect.id,
    { stageId: stage.id },
    { source: 'system_rule', rule: 'firstTouch' },
  )
}

/**
 * Whether a prospect passes a gate on what was said to a colleague at their company: that conversation counts for them,
 * too.
 */
export function passesGate(
  context: ReactionContext,
  person: Prospect,
  to: Id,
  given: { reason: string | null; note: string | null },
): boolean {
  const stage = context.playbook.stages[to]
  return !stage || !lackingAt(context, stage, { ...gateFacts(context, person, given), reached: true }).length
}
