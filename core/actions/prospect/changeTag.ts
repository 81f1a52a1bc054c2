import { z } from 'zod'
import { linkId } from '../../engine/state/engineState'
import { actionSchema, defineAction, mustBeThere, named } from '../kind/define'

/** Adds a tag to the prospect, or removes it. */
export const changeTag = defineAction({
  type: 'changeTag',
  label: 'Add or remove a tag',
  schema: actionSchema('changeTag', { tagId: z.uuid('Choose a tag'), on: z.boolean() }),
  mayWait: true,
  changesRecord: true,
  check: (action, names) => mustBeThere(names.tags, action.tagId, 'a tag'),
  apply({ context, prospect, cause }, { tagId, on }) {
    if (!context.playbook.names[tagId]) return context.skip('The tag has been deleted')
    const id = linkId(prospect.id, tagId)
    const has = context.state.prospectTag[id] !== undefined
    if (on && !has) context.create('addTag', 'prospectTag', { id, prospectId: prospect.id, tagId }, cause)
    if (!on && has) context.remove('removeTag', 'prospectTag', id, cause)
  },
  describe: (action, names) => `${action.on ? 'Adds' : 'Removes'} the tag ${named(names.tags, action.tagId)}`,
})
