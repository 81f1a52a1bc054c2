import { z } from 'zod'
import { companyOf, fullName } from '../../engine/state/engineState'
import { openDealOf } from '../../engine/moves/deals'
import { actionSchema, defineAction } from '../kind/define'

/** Opens a deal, unless one is open at the company. */
export const openDeal = defineAction({
  type: 'openDeal',
  label: 'Open a deal',
  schema: actionSchema('openDeal', { likelihood: z.number().int().min(0).max(100) }),
  mayWait: true,
  reachesCompany: () => true,
  apply({ context, prospect, cause }, { likelihood }) {
    const company = companyOf(context.state, prospect)
    // One deal at a company at a time, unless someone asks for another by hand.
    if (openDealOf(context, prospect)) return
    context.create(
      'openDeal',
      'deal',
      {
        id: context.newId(),
        companyId: company?.id ?? null,
        prospectId: prospect.id,
        ownerId: prospect.ownerId ?? context.event.actorId,
        name: company?.name ?? fullName(prospect),
        status: 'open',
        likelihood,
        openedAt: context.now,
        value: null,
        stageId: null,
        expectedClose: null,
        closedAt: null,
        closeReason: null,
      },
      cause,
    )
  },
  describe: ({ likelihood }) => `Opens a deal at ${likelihood}%`,
})
