import { z } from 'zod'
import { SETTABLE_FIELDS, isSettable, valueKey, type SettableField } from '../../engine/state/settableFields'
import { linkId } from '../../engine/state/engineState'
import { actionSchema, defineAction, mustBeThere, named } from '../kind/define'

const shown = (value: unknown): string => {
  if (Array.isArray(value)) return value.join(', ')
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  return String(value)
}

function textProblem(value: unknown, mode: string): string | null {
  if (mode === 'add') return 'Only a field of several choices can be added to'
  return typeof value === 'string' && value.length <= 200 ? null : 'Enter a text of at most 200 characters'
}

/** Sets a field of the prospect (the job title, the source, a custom field), adds to one of choices, or clears it. */
export const setField = defineAction({
  type: 'setField',
  label: 'Set a field',
  schema: actionSchema('setField', {
    fieldId: z
      .union([z.uuid(), z.enum(Object.keys(SETTABLE_FIELDS) as [SettableField])], 'Choose a field')
      .describe('A custom field’s id, or title, source, city, postalCode'),
    mode: z.enum(['set', 'add', 'clear']),
    value: z.union([z.string().max(2_000), z.number(), z.boolean(), z.array(z.string().max(200)).max(50)]).optional(),
  }),
  mayWait: true,
  changesRecord: true,
  check: (action, names) =>
    (isSettable(action.fieldId) ? null : mustBeThere(names.fields, action.fieldId, 'a field')) ??
    (action.mode !== 'clear' && (action.value === undefined || action.value === '') ? 'Enter the value' : null) ??
    (isSettable(action.fieldId) && action.mode !== 'clear' ? textProblem(action.value, action.mode) : null),
  apply({ context, prospect, cause }, { fieldId, mode, value }) {
    const field = valueKey(fieldId)
    if (!isSettable(fieldId) && !context.playbook.customFields[field]) return context.skip('The field has been deleted')
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
    const field = isSettable(fieldId) ? `“${SETTABLE_FIELDS[fieldId]}”` : named(names.fields, fieldId)
    if (mode === 'clear') return `Clears ${field}`
    return mode === 'add' ? `Adds “${shown(value)}” to ${field}` : `Sets ${field} to “${shown(value)}”`
  },
})
