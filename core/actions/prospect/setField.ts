import { z } from 'zod'
import { linkId } from '../../engine/state/engineState'
import { actionSchema, defineAction, mustBeThere, named } from '../kind/define'

const shown = (value: unknown): string => {
  if (Array.isArray(value)) return value.join(', ')
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  return String(value)
}

/** Sets a custom field of the prospect, adds to one of several choices, or clears it. */
export const setField = defineAction({
  type: 'setField',
  label: 'Set a field',
  schema: actionSchema('setField', {
    fieldId: z.uuid('Choose a field'),
    mode: z.enum(['set', 'add', 'clear']),
    value: z.union([z.string().max(2_000), z.number(), z.boolean(), z.array(z.string().max(200)).max(50)]).optional(),
  }),
  mayWait: true,
  changesRecord: true,
  check: (action, names) =>
    mustBeThere(names.fields, action.fieldId, 'a field') ??
    (action.mode !== 'clear' && (action.value === undefined || action.value === '') ? 'Enter the value' : null),
  apply({ context, prospect, cause }, { fieldId, mode, value }) {
    const field = `custom:${fieldId}`
    if (!context.playbook.customFields[field]) return context.skip('The field has been deleted')
    const id = linkId(prospect.id, field)
    const row = context.state.customValue[id]
    if (mode === 'clear') return context.remove('setField', 'customValue', id, cause)
    const there = Array.isArray(row?.value) ? (row.value as unknown[]) : []
    const next = mode === 'add' ? [...new Set([...there, ...(Array.isArray(value) ? value : [value])])] : value
    if (row && JSON.stringify(row.value) === JSON.stringify(next)) return
    if (row) context.change('setField', 'customValue', id, { value: next }, cause)
    else context.create('setField', 'customValue', { id, prospectId: prospect.id, field, value: next }, cause)
  },
  describe({ fieldId, mode, value }, names) {
    const field = named(names.fields, fieldId)
    if (mode === 'clear') return `Clears ${field}`
    return mode === 'add' ? `Adds “${shown(value)}” to ${field}` : `Sets ${field} to “${shown(value)}”`
  },
})
