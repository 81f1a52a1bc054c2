import { z } from 'zod'
import { linkId } from '../../engine/state/engineState'
import { actionSchema, defineAction, mustBeThere, named } from '../kind/define'

/** Adds the prospect to a fixed list, or removes them from it. */
export const changeList = defineAction({
  type: 'changeList',
  label: 'Add to or remove from a list',
  schema: actionSchema('changeList', { listId: z.uuid('Choose a fixed list'), on: z.boolean() }),
  mayWait: true,
  changesRecord: true,
  check: (action, names) => mustBeThere(names.lists, action.listId, 'a fixed list'),
  apply({ context, prospect, cause }, { listId, on }) {
    if (!context.playbook.names[listId]) return context.skip('The list has been deleted')
    const id = linkId(prospect.id, listId)
    const has = context.state.listMember[id] !== undefined
    if (on && !has) context.create('joinList', 'listMember', { id, prospectId: prospect.id, listId }, cause)
    if (!on && has) context.remove('leaveList', 'listMember', id, cause)
  },
  describe: (action, names) =>
    `${action.on ? 'Adds to' : 'Removes from'} the list ${named(names.lists, action.listId)}`,
})
