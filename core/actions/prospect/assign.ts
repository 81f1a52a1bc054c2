import { z } from 'zod'
import { ofProspect, ownerAtCompany } from '../../engine/state/engineState'
import { notify } from '../../engine/moves/notify'
import { actionSchema, defineAction, mustBeThere } from '../kind/define'

/** Gives the prospect to a user, or to the one who has most people at their company; their open work goes along. */
export const assign = defineAction({
  type: 'assign',
  label: 'Assign',
  schema: actionSchema('assign', {
    to: z.union([z.literal('companyOwner'), z.uuid('Choose a user')]).describe('A user, or the company’s owner'),
  }),
  mayWait: true,
  reachesCompany: ({ to }) => to === 'companyOwner',
  check: ({ to }, names) => (to === 'companyOwner' ? null : mustBeThere(names.users, to, 'a user')),
  apply({ context, prospect, cause }, { to }) {
    const ownerId = to === 'companyOwner' ? ownerAtCompany(context.state, prospect) : to
    if (!ownerId) return context.skip('Not assigned: nobody else at their company has an owner')
    if (!context.playbook.names[ownerId]) return context.skip('Not assigned: the user is not active any more')
    if (prospect.ownerId === ownerId) return
    context.change('assign', 'prospect', prospect.id, { ownerId }, cause)
    notify(context, prospect, ownerId, 'handed_over', cause)
    for (const task of ofProspect(context.state, 'task', prospect.id)) {
      if (task.status === 'open') context.change('assign', 'task', task.id, { ownerId }, cause)
    }
  },
  describe: ({ to }, names) =>
    to === 'companyOwner'
      ? 'Assigns to the company’s owner'
      : `Assigns to ${names.users[to] ?? 'a user who is no longer active'}`,
})
