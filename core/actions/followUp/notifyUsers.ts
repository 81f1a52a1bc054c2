import { z } from 'zod'
import { notify } from '../../engine/moves/notify'
import { actionSchema, defineAction, mustBeThere } from '../kind/define'

/** Lets users know that the outcome was logged, but for who logs it. */
export const notifyUsers = defineAction({
  type: 'notifyUsers',
  label: 'Notify people',
  schema: actionSchema('notifyUsers', {
    users: z
      .array(z.union([z.literal('owner'), z.uuid('Choose a user')]))
      .min(1, 'Choose at least one')
      .max(20),
  }),
  mayWait: true,
  check: ({ users }, names) =>
    users.map((user) => (user === 'owner' ? null : mustBeThere(names.users, user, 'a user'))).find(Boolean) ?? null,
  apply({ context, prospect, outcome, cause }, { users }) {
    for (const user of new Set(users.map((one) => (one === 'owner' ? prospect.ownerId : one)))) {
      notify(context, prospect, user, 'outcome', cause, outcome?.id ?? null)
    }
  },
  describe({ users }, names) {
    const nameOf = (user: string) => names.users[user] ?? 'a user who is no longer active'
    return `Notifies ${users.map((user) => (user === 'owner' ? 'the owner' : nameOf(user))).join(', ')}`
  },
})
