import { z } from 'zod'
import { chanceOf } from '../../chance'
import type { Id } from '../../instant'
import { ofProspect, ownerAtCompany, type Prospect } from '../../engine/state/engineState'
import { notify } from '../../engine/moves/notify'
import type { ReactionContext } from '../../engine/state/reactionContext'
import { actionSchema, defineAction, mustBeThere } from '../kind/define'

const COMPANY_OWNER = 'companyOwner'
type Whom = string | readonly Id[]

/** The new owner, or why there is none, as a sentence. */
function ownerFor({ state, playbook }: ReactionContext, prospect: Prospect, to: Whom): { id: Id } | { why: string } {
  const active = (id: Id) => playbook.names[id] !== undefined
  if (typeof to !== 'string') {
    const users = to.filter(active)
    if (!users.length) return { why: 'Not assigned: none of the users is active any more' }
    // Who has one of them already stays; else chance decides, the same for everyone at one company.
    if (prospect.ownerId && users.includes(prospect.ownerId)) return { id: prospect.ownerId }
    return { id: users[Math.floor(chanceOf(prospect.companyId ?? prospect.id) * users.length)]! }
  }
  const id = to === COMPANY_OWNER ? ownerAtCompany(state, prospect) : to
  if (!id) return { why: 'Not assigned: nobody else at their company has an owner' }
  return active(id) ? { id } : { why: 'Not assigned: the user is not active any more' }
}

/**
 * Gives the prospect to a user, evenly to one of several, or to the one who has most people at their company; their
 * open work goes along.
 */
export const assign = defineAction({
  type: 'assign',
  label: 'Assign',
  schema: actionSchema('assign', {
    to: z
      .union([
        z.literal(COMPANY_OWNER),
        z.uuid('Choose a user'),
        z.array(z.uuid('Choose a user')).min(2, 'Choose at least two users').max(50),
      ])
      .describe('A user, several among whom people are divided evenly by company, or the company’s owner'),
  }),
  mayWait: true,
  reachesCompany: ({ to }) => to === COMPANY_OWNER,
  check({ to }, names) {
    if (to === COMPANY_OWNER) return null
    const missing = [to].flat().map((id) => mustBeThere(names.users, id, 'a user'))
    return missing.find(Boolean) ?? null
  },
  apply({ context, prospect, cause }, { to }) {
    const owner = ownerFor(context, prospect, to)
    if ('why' in owner) return context.skip(owner.why)
    const ownerId = owner.id
    if (prospect.ownerId === ownerId) return
    context.change('assign', 'prospect', prospect.id, { ownerId }, cause)
    notify(context, prospect, ownerId, 'handed_over', cause)
    for (const task of ofProspect(context.state, 'task', prospect.id)) {
      if (task.status === 'open') context.change('assign', 'task', task.id, { ownerId }, cause)
    }
  },
  describe({ to }, names) {
    if (to === COMPANY_OWNER) return 'Assigns to the company’s owner'
    if (typeof to === 'string') return `Assigns to ${names.users[to] ?? 'a user who is no longer active'}`
    const users = to.map((id) => names.users[id] ?? '(no longer active)').join(', ') || '…'
    return `Divides evenly among ${users}, each company to one`
  },
})
