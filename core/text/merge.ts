import { Liquid, type Template } from 'liquidjs'
import type { CustomKind } from '../filter/fields'

/** The merge fields a template may name, with what they stand for. */
export const MERGE_FIELDS = {
  first_name: 'First name', last_name: 'Last name', title: 'Job title', company: 'Company', city: 'City',
  sender_name: 'Your name', sender_first_name: 'Your first name', team: 'Your company',
} as const
export type MergeValues = Readonly<Partial<Record<string, string>>>

/** One of the team's own fields of people or companies, as far as templates may name it. */
export interface OwnMergeField { id: string, of: 'prospect' | 'company', name: string, kind: CustomKind }

/** The names by which templates know the team's own fields: small plain letters, those of companies with "company_" before; each its own. */
export function ownMergeNames(own: readonly OwnMergeField[]): Map<string, OwnMergeField> {
  const names = new Map<string, OwnMergeField>()
  for (const field of own) {
    const plain = field.name.normalize('NFD').replace(/[\u0300-\u036f]/g, '').toLowerCase().replace(/[^a-z0-9]+/g, '_').replace(/^_+|_+$/g, '')
    const base = `${field.of === 'company' ? 'company_' : ''}${/^[a-z]/.test(plain) ? plain : `field_${plain || field.id.slice(0, 8)}`}`
    let name = base
    for (let number = 2; name in MERGE_FIELDS || names.has(name); number++) name = `${base}_${number}`
    names.set(name, field)
  }
  return names
}

/** The own fields' values as mail and scripts say them: dates as "November 23, 2026", numbers with commas, several joined by commas. */
export function ownMergeValues(names: ReadonlyMap<string, OwnMergeField>, custom: Readonly<Record<string, unknown>>, companyCustom: Readonly<Record<string, unknown>> | null): MergeValues {
  return Object.fromEntries([...names].flatMap(([name, field]) => {
    const text = sayValue((field.of === 'company' ? companyCustom : custom)?.[field.id], field.kind)
    return text ? [[name, text]] : []
  }))
}

function sayValue(value: unknown, kind: CustomKind): string {
  if (value === null || value === undefined) return ''
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  if (typeof value === 'number') return value.toLocaleString('en-US', kind === 'money' && !Number.isInteger(value) ? { minimumFractionDigits: 2 } : { maximumFractionDigits: 6 })
  if (Array.isArray(value)) return value.join(', ')
  return kind === 'date' ? new Date(`${value as string}T00:00:00Z`).toLocaleDateString('en-US', { timeZone: 'UTC', year: 'numeric', month: 'long', day: 'numeric' }) : String(value as string)
}

const engine = new Liquid({ strictFilters: true, strictVariables: false, cache: false, ownPropertyOnly: true })
for (const tag of ['include', 'render', 'layout', 'block']) delete engine.tags[tag]

/** What is wrong with a template, and where (line from 1). */
export interface TemplateFault {
  line: number
  message: string
}

/** Templates parsed before: a cadence's step is filled in for many people. */
const known = new Map<string, { parsed: Template[], fields: string[] }>()
const KNOWN = 500

function parse(template: string): Template[] | TemplateFault {
  const found = known.get(template)
  if (found) return found.parsed
  try {
    const parsed = engine.parse(template)
    if (known.size >= KNOWN) known.clear()
    known.set(template, { parsed, fields: engine.globalVariablesSync(parsed, { partials: false }) })
    return parsed
  }
  catch (error) {
    const { message, token } = error as Error & { token?: { getPosition(): number[] } }
    return { line: token?.getPosition()[0] ?? 1, message: message.split(/, line:|\n/)[0]! }
  }
}

function fieldsOf(template: string): string[] {
  return known.get(template)?.fields ?? engine.globalVariablesSync(template, { partials: false })
}

/** Everything wrong with a template: a broken tag, or a field that is neither a usual one nor one of `own`. Empty when it can be used. */
export function templateFaults(template: string, own: ReadonlyMap<string, unknown> = new Map()): TemplateFault[] {
  const parsed = parse(template)
  if (!Array.isArray(parsed)) return [parsed]
  return fieldsOf(template).filter(field => !(field in MERGE_FIELDS || own.has(field))).map((field) => {
    const line = template.slice(0, Math.max(0, template.indexOf(field))).split('\n').length
    return { line, message: `There is no field "${field}"` }
  })
}

/**
 * Fills in a template. `missing` names the fields that have no value and no fallback (`{{ first_name | default: "there" }}`);
 * mail with a hole in it must not go out. Throws for a template with faults.
 */
export function merge(template: string, values: MergeValues): { text: string, missing: string[] } {
  const parsed = parse(template)
  if (!Array.isArray(parsed)) throw new SyntaxError(parsed.message)
  const filled = engine.renderSync(parsed, values) as string
  const missing = fieldsOf(template).filter((field) => {
    if (values[field]) return false
    const uses = template.match(new RegExp(`\\{\\{-?\\s*${field}\\b[^}]*\\}\\}`, 'g')) ?? []
    return uses.some(use => !/\|\s*default\s*:/.test(use))
  })
  return { text: filled, missing }
}

/** A template in which one field goes by another name, wherever it stands in a tag. */
export function renameInTemplate(template: string, from: string, to: string): string {
  return template.replace(/\{\{[^}]*\}\}|\{%[^%]*%\}/g, tag => tag.replace(/"[^"]*"|'[^']*'|[\w-]+/g, word => word === from ? to : word))
}
