import type { ExitReason, Scope } from '../enumerations'
import type { Cadence } from '../cadence/steps'
import type { Deal, EmailAddress, Enrollment, Prospect } from './state/engineState'
import { colleaguesOf, openEnrollments, usableEmail } from './state/engineState'
import type { ReactionContext } from './state/reactionContext'
import { cadenceOf, endEnrollment } from './moves/progress'

/** Why cadences end, as it is said with the change. */
const SUMMARIES = {
  stage_reached: 'They came to a stage that ends the cadence',
  deal_opened: 'A deal was opened',
  bounced: 'Their email address bounced',
  no_address: 'No email address is left that works',
} as const satisfies Partial<Record<ExitReason, string>>

/**
 * Ends cadences by their own exits, for all that this event has done: a stage that was reached, a deal that was opened,
 * an address that bounces, no address left. Replies and meetings have their own reactions.
 */
export function applyExits(context: ReactionContext): void {
  for (const { kind, entity, id, after } of [...context.effects]) {
    if (kind === 'moveStage') {
      const { stageId } = after as Partial<Prospect>
      endWhere(context, id, 'stage_reached', ({ exits }) =>
        exits.stages.ids.includes(stageId ?? '') ? exits.stages.scope : null,
      )
    }
    if (kind === 'openDeal' && entity === 'deal') {
      endWhere(context, (after as Deal).prospectId, 'deal_opened', ({ exits }) => exits.deal)
    }
    const address = kind === 'markEmail' ? (context.state.emailAddress[id] as EmailAddress | undefined) : undefined
    if (address?.status !== 'bounced') continue
    if (!usableEmail(context.state, address.prospectId)) {
      endWhere(context, address.prospectId, 'no_address', ({ exits }) => (exits.noAddress ? 'person' : null))
    }
  }
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
  as: keyof typeof SUMMARIES,
  scopeOf: (cadence: Cadence) => Scope | null,
): void {
  const prospect = context.state.prospect[prospectId]
  if (!prospect) return
  for (const enrollment of openEnrollments(context.state, prospectId)) {
    const cadence = cadenceOf(context, enrollment)
    const scope = cadence && scopeOf(cadence)
    if (!scope) continue
    const cause = { source: 'cadence', id: cadence.id, summary: SUMMARIES[as] } as const
    endEnrollment(context, enrollment, as, cause)
    if (scope !== 'company') continue
    for (const colleague of colleaguesOf(context.state, prospect)) {
      for (const other of openEnrollments(context.state, colleague.id)) {
        if (other.cadenceId === cadence.id) endEnrollment(context, other, as, cause)
      }
    }
  }
}
