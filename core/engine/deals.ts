import type { ReactionContext } from './reactionContext'
import type { Because } from './effects'
import type { Happening } from './happenings'
import { colleaguesOf, companyOf, fullName, type Deal, type Prospect } from './situation'
import { moveStage, replacePlans } from './progress'

type Of<K extends Happening['kind']> = Extract<Happening, { kind: K }>

/** What a deal is about, as somebody sets it: money in the team's currency, an ISO day. */
export interface DealTerms {
  name: string
  value: number | null
  stageId: string | null
  /** Percent, 0 to 100. */
  likelihood: number
  expectedClose: string | null
}

const BY_HAND: Because = { by: 'person' }

/** The open deal of the person, or of anybody at their company; null for none. */
export function openDealOf(context: ReactionContext, prospect: Prospect): Deal | null {
  const company = companyOf(context.situation, prospect)
  return (
    Object.values(context.situation.deal).find(
      (deal) =>
        deal.state === 'open' &&
        (deal.prospectId === prospect.id || (company !== null && deal.companyId === company.id)),
    ) ?? null
  )
}

/** Opens a deal with the person; a second one at a company only where that is asked for. */
export function onDealOpened(context: ReactionContext, happening: Of<'dealOpened'>): void {
  const prospect = context.situation.prospect[happening.prospectId]!
  const company = companyOf(context.situation, prospect)
  const open = openDealOf(context, prospect)
  if (open && !happening.another) return context.refuse('another', `There is an open deal already: “${open.name}”`)
  context.create(
    'openDeal',
    'deal',
    {
      ...happening.deal,
      id: happening.dealId,
      companyId: company?.id ?? null,
      prospectId: prospect.id,
      ownerId: prospect.ownerId ?? context.happening.actorId,
      name: happening.deal.name.trim() || company?.name || fullName(prospect),
      state: 'open',
      openedAt: context.now,
      closedAt: null,
      closeReason: null,
    },
    BY_HAND,
  )
  if (company?.standing === 'open') {
    context.change(
      'setCompanyStanding',
      'company',
      company.id,
      { standing: 'in_deal' },
      { by: 'law', says: 'A deal is open there' },
    )
  }
}

function openDeal(context: ReactionContext, id: string): Deal | null {
  const deal = context.situation.deal[id]
  if (deal?.state === 'open') return deal
  context.refuse('deal', 'This deal is closed')
  return null
}

/** Changes what an open deal is about. */
export function onDealChanged(context: ReactionContext, happening: Of<'dealChanged'>): void {
  const deal = openDeal(context, happening.dealId)
  if (deal) context.change('changeDeal', 'deal', deal.id, happening.change, BY_HAND)
}

/**
 * Closes a deal. Won, the company is a customer and the person stands in the first stage of kind won; lost, which wants
 * a reason, the company is open again unless another deal is.
 */
export function onDealClosed(context: ReactionContext, happening: Of<'dealClosed'>): void {
  const deal = openDeal(context, happening.dealId)
  if (!deal) return
  const reason = happening.reason?.trim() || null
  if (happening.result === 'lost' && !reason) return context.refuse('reason', 'Say why it was lost')
  const won = happening.result === 'won'
  context.change(
    'closeDeal',
    'deal',
    deal.id,
    {
      state: happening.result,
      closedAt: context.now,
      closeReason: reason,
      likelihood: won ? 100 : 0,
      ...(won && happening.value !== undefined && { value: happening.value }),
    },
    BY_HAND,
  )
  const prospect = context.situation.prospect[deal.prospectId]!
  const company = companyOf(context.situation, prospect)
  if (company && won) {
    context.change(
      'setCompanyStanding',
      'company',
      company.id,
      { standing: 'customer' },
      { by: 'law', says: 'A deal was won there' },
    )
  }
  if (company?.standing === 'in_deal' && !won && !openDealOf(context, prospect)) {
    context.change(
      'setCompanyStanding',
      'company',
      company.id,
      { standing: 'open' },
      { by: 'law', says: 'No deal is open there any more' },
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
      { by: 'law', says: 'A deal was won' },
    )
  }
  for (const colleague of colleaguesOf(context.situation, prospect)) {
    replacePlans(context, colleague, ['first_contact'], { by: 'law', says: 'Their company is a customer' })
  }
}
