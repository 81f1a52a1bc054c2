import type { z } from 'zod'
import type { Field } from '#core/filter/fields'
import type { findProspects, List } from '#shared/api/lists'
import type { useTimes } from '~/composables/times'

export type TablePerson = z.output<typeof findProspects.response>['people'][number]

/** A column as it is drawn: its field and its width in pixels. */
export interface DrawnColumn {
  field: Field
  width: number
}

const WIDTHS: Record<Field['kind'], number> = {
  text: 170,
  choice: 140,
  several: 180,
  number: 96,
  moment: 104,
  yesNo: 84,
  place: 170,
}

/** The columns whose fields there are, each with the width it was given or the usual one of its kind. */
export function drawnColumns(columns: List['columns'], byKey: ReadonlyMap<string, Field>): DrawnColumn[] {
  return columns.flatMap((column) => {
    const field = byKey.get(column.key)
    return field ? [{ field, width: column.width ?? (field.key === 'thread' ? 230 : WIDTHS[field.kind]) }] : []
  })
}

/** A value of a field as a cell shows it; empty for none, but "never" for a touch there has not been. */
export function fieldText(field: Field, value: unknown, times: ReturnType<typeof useTimes>): string {
  if (value === null || value === undefined || value === '') {
    return field.kind === 'moment' && field.group === 'touches' && field.key !== 'nextAction' ? 'never' : ''
  }
  const named = (id: unknown) => field.choices?.find((choice) => choice.id === id)?.name ?? String(id)
  switch (field.kind) {
    case 'choice':
      return named(value)
    case 'several':
      return (value as unknown[]).map(named).join(', ')
    case 'number':
      return (value as number).toLocaleString('en-US')
    case 'moment':
      return field.group === 'touches' ? times.ago(value as number) : times.day(value as number)
    case 'yesNo':
      return value ? 'yes' : 'no'
    default:
      return String(value)
  }
}
