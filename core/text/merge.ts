import { Liquid, type Template } from 'liquidjs'

/** The merge fields a template may name, with what they stand for. */
export const MERGE_FIELDS = {
  first_name: 'First name', last_name: 'Last name', title: 'Job title', company: 'Company', city: 'City',
  sender_name: 'Your name', sender_first_name: 'Your first name', team: 'Your company',
} as const
export type MergeField = keyof typeof MERGE_FIELDS
export type MergeValues = Readonly<Partial<Record<MergeField, string>>>

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

/** Everything wrong with a template: a broken tag, or a field nobody knows. Empty when it can be used. */
export function templateFaults(template: string): TemplateFault[] {
  const parsed = parse(template)
  if (!Array.isArray(parsed)) return [parsed]
  return fieldsOf(template).filter(field => !(field in MERGE_FIELDS)).map((field) => {
    const line = template.slice(0, Math.max(0, template.indexOf(field))).split('\n').length
    return { line, message: `There is no field "${field}"` }
  })
}

/**
 * Fills in a template. `missing` names the fields that have no value and no fallback (`{{ first_name | default: "there" }}`);
 * mail with a hole in it must not go out. Throws for a template with faults.
 */
export function merge(template: string, values: MergeValues): { text: string, missing: MergeField[] } {
  const parsed = parse(template)
  if (!Array.isArray(parsed)) throw new SyntaxError(parsed.message)
  const filled = engine.renderSync(parsed, values) as string
  const missing = fieldsOf(template).filter((field): field is MergeField => {
    if (values[field as MergeField]) return false
    const uses = template.match(new RegExp(`\\{\\{-?\\s*${field}\\b[^}]*\\}\\}`, 'g')) ?? []
    return uses.some(use => !/\|\s*default\s*:/.test(use))
  })
  return { text: filled, missing }
}
