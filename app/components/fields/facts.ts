import { useTimes } from '~/composables/times'
import type { CustomField } from '#shared/api/settings/fields'

/** One thing that is known, as it is shown and as it is changed. */
export interface Fact {
  key: string
  label: string
  shown: string
  kind: CustomField['kind']
  /** What it holds: text, or texts where several may be chosen. */
  raw: string | string[]
  options?: { value: string; title: string }[]
  /** It is shown and not changed here. */
  fixed?: boolean
  /** It always has a value: there is nothing to choose for none. */
  always?: boolean
  /** Said to be needed. */
  required?: boolean
  /** What is sent to change it. */
  body(value: string | string[]): object
}

/** A value of a custom field in words; empty for none. */
export function valueInWords(field: Pick<CustomField, 'kind'>, value: unknown): string {
  if (value === undefined || value === null) return ''
  switch (field.kind) {
    case 'yesNo':
      return value ? 'yes' : 'no'
    case 'number':
      return (value as number).toLocaleString('en-US')
    case 'money':
      return (value as number).toLocaleString('en-US', { minimumFractionDigits: 2, maximumFractionDigits: 2 })
    case 'date':
      return useTimes().date(Date.parse(`${value as string}T12:00Z`), 'UTC')
    case 'choices':
      return (value as string[]).join(', ')
    default:
      return String(value)
  }
}

/** The custom fields as facts, with the values they have. */
export function ownFacts(fields: readonly CustomField[], values: Readonly<Record<string, unknown>>): Fact[] {
  return fields.map((field) => {
    const value = values[field.id]
    const single = field.kind === 'yesNo' ? valueInWords(field, value) : String(value ?? '')
    const raw = field.kind === 'choices' ? [...((value as string[] | undefined) ?? [])] : single
    const options = field.kind === 'yesNo' ? ['yes', 'no'] : field.choices
    return {
      key: field.id,
      label: field.name,
      kind: field.kind,
      raw,
      shown: valueInWords(field, value),
      always: field.required && raw.length > 0,
      required: field.required,
      ...(options.length > 0 && { options: options.map((choice) => ({ value: choice, title: choice })) }),
      body: (given) => ({ custom: { [field.id]: given === '' ? null : given } }),
    }
  })
}
