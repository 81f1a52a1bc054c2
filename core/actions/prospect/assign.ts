import { z } from 'zod'
import type { Id } from '../../instant'
import type { Cause } from '../../engine/state/effects'
import { ofProspect, ownerAtCompany, type EngineState, type Prospect } from '../../engine/state/engineState'
import { notify } from '../../engine/moves/notify'
import type { ReactionContext } from '../../engine/state/reactionContext'
import { actionSchema, defineAction, mustBeThere } from '../kind/define'

const COMPANY_OWNER = 'companyOwner'
type Whom = string | readonly Id[]

/** Whose turn it is: who was given a prospect longest ago, or never; the first named of several. */
function nextInTurn({ turn }: EngineState, users: readonly Id[]): Id {
  const numberOf = (id: Id) => turn[id]?.number ?? 0
  return users.reduce((next, id) => (numberOf(id) < numberOf(next) ? id : next))
}

/** Notes that a user was given a prospect in turn: they are behind everyone else who is given some. */
function takeTurn(context: ReactionContext, userId: Id, users: readonly Id[], cause: Cause): void {
  const { turn } = context.state
  const number = 1 + Math.max(...users.map((id) => turn[id]?.number ?? 0))
  if (turn[userId]) context.change('takeTurn', 'turn', userId, { number }, cause)
  else context.create('takeTurn', 'turn', { id: userId, number }, cause)
}

/** The new owner, or why there is none, as a sentence; `inTurn` where they were next of several. */
function ownerFor(
  { state, playbook }: ReactionContext,
  prospect: Prospect,
  to: Whom,
): { id: Id; inTurn?: readonly Id[] } | { why: string } {
  const active = (id: Id) => playbook.names[id] !== undefined
  if (typeof to !== 'string') {
    const users = to.filter(active)
    if (!users.length) return { why: 'Not assigned: none of the users is active' }
    // Who has one of them already stays, and people of one company go to one user.
    if (prospect.ownerId && users.includes(prospect.ownerId)) return { id: prospect.ownerId }
    const known = ownerAtCompany(state, prospect, users)
    return known ? { id: known } : { id: nextInTurn(state, users), inTurn: users }
  }
  const id = to === COMPANY_OWNER ? ownerAtCompany(state, prospect) : to
  if (!id) return { why: 'Not assigned: nobody else at their company has an owner' }
  return active(id) ? { id } : { why: 'Not assigned: the user is no longer active' }
}

/**
 * Gives the prospect to a user, to the next of several in turn, or to the one who has most people at their company;
 * their open work goes along.
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
      .describe('A user, several who get people in turn, a company’s people together, or the company’s owner'),
  }),
  mayWait: true,
  reachesCompany: ({ to }) => to === COMPANY_OWNER || Array.isArray(to),
  turnsOf: ({ to }) => (Array.isArray(to) ? to : []),
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
    if (owner.inTurn) takeTurn(context, ownerId, owner.inTurn, cause)
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
    return `Assigns in turn to ${users}; people of one company to the same user`
  },
})
