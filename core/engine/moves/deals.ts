import type { ReactionContext } from '../state/reactionContext'
import type { Cause } from '../state/effects'
import type { DomainEvent } from '../state/events'
import { colleaguesOf, companyOf, fullName, type Deal, type Prospect } from '../state/engineState'
import { moveStage } from './progress'
import { replacePlans } from './work'

type Of<K extends DomainEvent['kind']> = Extract<DomainEvent, { kind: K }>

const BY_HAND: Cause = { source: 'person' }

/** The open deal of the person, or of anyone at their company; null for none. */
export function openDealOf(context: ReactionContext, prospect: Prospect): Deal | null {
  const company = companyOf(context.state, prospect)
  return (
    Object.values(context.state.deal).find(
      (deal) =>
        deal.status === 'open' &&
        (deal.prospectId === prospect.id || (company !== null && deal.companyId === company.id)),
    ) ?? null
  )
}

/** Opens a deal with the person; a second one at a company only where that is asked for. */
export function onDealOpened(context: ReactionContext, event: Of<'dealOpened'>): void {
  const prospect = context.state.prospect[event.prospectId]!
  const company = companyOf(context.state, prospect)
  const open = openDealOf(context, prospect)
  if (open && !event.another) return context.refuse('another', `There is an open deal already: “${open.name}”`)
  context.create(
    'openDeal',
    'deal',
    {
      ...event.deal,
      id: event.dealId,
      companyId: company?.id ?? null,
      prospectId: prospect.id,
      ownerId: prospect.ownerId ?? context.event.actorId,
      name: event.deal.name.trim() || company?.name || fullName(prospect),
      status: 'open',
      openedAt: context.now,
      closedAt: null,
      closeReason: null,
    },
    BY_HAND,
  )
  if (company?.status === 'open') {
    context.change(
      'setCompanyStatus',
      'company',
      company.id,
      { status: 'in_deal' },
      { source: 'system_rule', rule: 'dealOpen' },
    )
  }
}

function openDeal(context: ReactionContext, id: string): Deal | null {
  const deal = context.state.deal[id]
  if (deal?.status === 'open') return deal
  context.refuse('deal', 'This deal is closed')
  return null
}

/** Changes what an open deal is about. */
export function onDealChanged(context: ReactionContext, event: Of<'dealChanged'>): void {
  const deal = openDeal(context, event.dealId)
  if (deal) context.change('changeDeal', 'deal', deal.id, event.change, BY_HAND)
}

/**
 * Closes a deal. Won, the company is a customer and the person stands in the first stage of kind won; lost, the
 * company is open again unless another deal is.
 */
export function closeDeal(
  context: ReactionContext,
  deal: Deal,
  { result, reason, value }: { result: 'won' | 'lost'; reason: string | null; value?: number | null | undefined },
  cause: Cause,
): void {
  const won = result === 'won'
  context.change(
    'closeDeal',
    'deal',
    deal.id,
    {
      status: result,
      closedAt: context.now,
      closeReason: reason,
      likelihood: won ? 100 : 0,
      ...(won && value !== undefined && { value }),
    },
    cause,
  )
  const prospect = context.state.prospect[deal.prospectId]!
  const company = companyOf(context.state, prospect)
  if (company && won) {
    context.change(
      'setCompanyStatus',
      'company',
      company.id,
      { status: 'customer' },
      { source: 'system_rule', rule: 'dealWonThere' },
    )
  }
  if (company?.status === 'in_deal' && !won && !openDealOf(context, prospect)) {
    context.change(
      'setCompanyStatus',
      'company',
      company.id,
      { status: 'open' },
      { source: 'system_rule', rule: 'noDealOpen' },
    )
  }
  if (!won) return
  const stage = Object.values(context.playbook.stages)
    .filter((one) => one.kind === 'won' && !one.archived)
    .sort((a, b) => a.position - b.position)[0]
  if (stage) {
    moveStage(
      context,
      prospect,
      stage.id,
      { reason: null, note: null, override: 'a deal was won' },
      { source: 'system_rule', rule: 'dealWon' },
    )
  }
  for (const colleague of colleaguesOf(context.state, prospect)) {
    replacePlans(context, colleague, ['first_contact'], {
      source: 'system_rule',
      rule: 'companyIsCustomer',
    })
  }
}

/** Closes a deal by hand; one that is lost wants a reason. */
export function onDealClosed(context: ReactionContext, event: Of<'dealClosed'>): void {
  const deal = openDeal(context, event.dealId)
  if (!deal) return
  const reason = event.reason?.trim() || null
  if (event.result === 'lost' && !reason) return context.refuse('reason', 'Enter why it was lost')
  closeDeal(context, deal, { result: event.result, reason, value: event.value }, BY_HAND)
}
