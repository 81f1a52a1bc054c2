import type { ExitReason, Scope } from '../enumerations'
import type { Cadence } from '../cadence/steps'
import type { Rule } from './state/causes'
import type { Enrollment, Prospect } from './state/engineState'
import { colleaguesOf, openEnrollments, usableEmail } from './state/engineState'
import type { ReactionContext } from './state/reactionContext'
import { cadenceOf, endEnrollment } from './moves/progress'

/** The rules by which cadences end. */
const EXIT_RULES = {
  stage_reached: 'exitStage',
  deal_opened: 'exitDeal',
  bounced: 'exitBounced',
  no_address: 'exitNoAddress',
  form_sent: 'exitForm',
} as const satisfies Partial<Record<ExitReason, Rule>>

/**
 * Ends cadences by their own exits, for all that this event has done: a stage that was reached, a deal that was opened,
 * an address that bounces, no address left. Replies and meetings have their own reactions.
 */
export function applyExits(context: ReactionContext): void {
  for (const { kind, id, after } of [...context.effects]) {
    if (kind === 'moveStage') {
      endWhere(context, id, 'stage_reached', ({ exits }) =>
        exits.stages.ids.includes(after?.stageId ?? '') ? exits.stages.scope : null,
      )
    }
    if (kind === 'openDeal' && after?.prospectId) {
      endWhere(context, after.prospectId, 'deal_opened', ({ exits }) => exits.deal)
    }
    const address = kind === 'markEmail' ? context.state.emailAddress[id] : undefined
    if (address?.status !== 'bounced') continue
    if (!usableEmail(context.state, address.prospectId)) {
      endWhere(context, address.prospectId, 'no_address', ({ exits }) => (exits.noAddress ? 'person' : null))
    }
  }
}

/** Ends the cadences that end when a form is sent. */
export function exitOnForm(context: ReactionContext, prospectId: string): void {
  endWhere(context, prospectId, 'form_sent', ({ exits }) => exits.formSent)
}

/** Ends the cadence of an email that bounced, unless its exits say that it goes on without. */
export function endBounced(context: ReactionContext, prospect: Prospect, enrollment: Enrollment): void {
  endWhere(context, prospect.id, 'bounced', (cadence) =>
    cadence.id === enrollment.cadenceId ? cadence.exits.bounced : null,
  )
}

function endWhere(
  context: ReactionContext,
  prospectId: string,
  as: keyof typeof EXIT_RULES,
  scopeOf: (cadence: Cadence) => Scope | null,
): void {
  const prospect = context.state.prospect[prospectId]
  if (!prospect) return
  for (const enrollment of openEnrollments(context.state, prospectId)) {
    const cadence = cadenceOf(context, enrollment)
    const scope = cadence && scopeOf(cadence)
    if (!scope) continue
    const cause = { source: 'cadence', id: cadence.id, rule: EXIT_RULES[as] } as const
    endEnrollment(context, enrollment, as, cause)
    if (scope !== 'company') continue
    for (const colleague of colleaguesOf(context.state, prospect)) {
      for (const other of openEnrollments(context.state, colleague.id)) {
        if (other.cadenceId === cadence.id) endEnrollment(context, other, as, cause)
      }
    }
  }
}
