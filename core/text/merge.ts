import type { CustomFieldKind } from '../enumerations'
import { escapeHtml, withPlainTags } from './html'
import { MERGE_FIELDS } from './mergeFields'
import {
  Drop,
  Filter,
  filters as shippedFilters,
  Liquid,
  Output,
  toValueSync,
  type Template,
  type Variables,
} from 'liquidjs'

export type MergeValues = Readonly<Partial<Record<string, string>>>

/** One of the custom fields of people or companies, as far as templates may name it. */
export interface CustomMergeField {
  id: string
  of: 'prospect' | 'company'
  name: string
  kind: CustomFieldKind
}

/** Words that mean something to the template language itself, so that no field can go by them. */
const LANGUAGE_WORDS = new Set(['and', 'or', 'not', 'contains', 'true', 'false', 'nil', 'null', 'empty', 'blank'])

/**
 * The names by which templates know the custom fields: small plain letters, those of companies with "company_"
 * before; each its own.
 */
export function customMergeNames(own: readonly CustomMergeField[]): Map<string, CustomMergeField> {
  const names = new Map<string, CustomMergeField>()
  for (const field of own) {
    const plain = field.name
      .normalize('NFD')
      .replace(/[\u0300-\u036f]/g, '')
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '_')
      .replace(/^_+|_+$/g, '')
    const base = `${field.of === 'company' ? 'company_' : ''}${/^[a-z]/.test(plain) && !LANGUAGE_WORDS.has(plain) ? plain : `field_${plain || field.id.slice(0, 8)}`}`
    let name = base
    for (let number = 2; Object.hasOwn(MERGE_FIELDS, name) || names.has(name); number++) name = `${base}_${number}`
    names.set(name, field)
  }
  return names
}

/**
 * The custom fields' values as mail and scripts say them: dates as "November 23, 2026", numbers with commas, several
 * joined by commas.
 */
export function customMergeValues(
  names: ReadonlyMap<string, CustomMergeField>,
  custom: Readonly<Record<string, unknown>>,
  companyCustom: Readonly<Record<string, unknown>> | null,
): MergeValues {
  return Object.fromEntries(
    [...names].flatMap(([name, field]) => {
      const text = sayValue((field.of === 'company' ? companyCustom : custom)?.[field.id], field.kind)
      return text ? [[name, text]] : []
    }),
  )
}

function sayValue(value: unknown, kind: CustomFieldKind): string {
  if (value === null || value === undefined) return ''
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  if (typeof value === 'number') {
    return value.toLocaleString(
      'en-US',
      kind === 'money' && !Number.isInteger(value) ? { minimumFractionDigits: 2 } : { maximumFractionDigits: 6 },
    )
  }
  if (Array.isArray(value)) return value.join(', ')
  return kind === 'date'
    ? new Date(`${value as string}T00:00:00Z`).toLocaleDateString('en-US', {
        timeZone: 'UTC',
        year: 'numeric',
        month: 'long',
        day: 'numeric',
      })
    : String(value as string)
}

/**
 * The longest template, in characters, and what filling one in may cost: milliseconds, and characters handled on the
 * way. Far above what an email needs; no template can take more of a process than this.
 */
export const TEMPLATE_LIMITS = { characters: 50_000, milliseconds: 1_000, memory: 1_000_000 }

/** The tags a template may use. No loops: they are what makes a template expensive, and an email needs none. */
const TAGS = new Set(['assign', 'capture', 'case', 'comment', 'if', 'raw', 'unless', '#'])
/** The filters a template may use: those that work on text and numbers and cannot fail on what they are given. */
const FILTERS = new Set([
  'abs',
  'append',
  'capitalize',
  'ceil',
  'date',
  'default',
  'divided_by',
  'downcase',
  'floor',
  'lstrip',
  'minus',
  'newline_to_br',
  'plus',
  'prepend',
  'remove',
  'remove_first',
  'replace',
  'replace_first',
  'round',
  'rstrip',
  'size',
  'slice',
  'strip',
  'strip_newlines',
  'times',
  'truncate',
  'truncatewords',
  'upcase',
])

/** What is filled in right now: filling in is synchronous, so there is never more than one. */
let filling: { values: MergeValues; missing: Set<string> } | null = null

/**
 * The value of a field that has none: false in a condition, replaced by `default`, and noted wherever it would be
 * written out.
 */
class MissingValue extends Drop {
  constructor(readonly field: string) {
    super()
  }

  override valueOf(): null {
    return null
  }

  equals(other: unknown): boolean {
    if (other === null || other === undefined || other === '' || other instanceof MissingValue) return true
    const { equals } = other as { equals?: (value: unknown) => boolean }
    return typeof equals === 'function' && equals.call(other, '')
  }

  gt = () => false
  geq = () => false
  lt = () => false
  leq = () => false
}

function noteMissing(value: unknown): unknown {
  if (!(value instanceof MissingValue)) return value
  filling?.missing.add(value.field)
  return ''
}

type FilterHandler = (this: unknown, value: unknown, ...args: unknown[]) => unknown

/** A filter that notes the missing values it is given before it works on them. */
function noticing(handler: FilterHandler): FilterHandler {
  return function (value, ...args) {
    const given = args.map((arg) => (Array.isArray(arg) ? [arg[0], noteMissing(arg[1])] : noteMissing(arg)))
    return handler.call(this, noteMissing(value), ...given)
  }
}

const engine = new Liquid({
  strictFilters: true,
  strictVariables: false,
  cache: false,
  ownPropertyOnly: true,
  parseLimit: TEMPLATE_LIMITS.characters,
  renderLimit: TEMPLATE_LIMITS.milliseconds,
  memoryLimit: TEMPLATE_LIMITS.memory,
})
for (const tag of Object.keys(engine.tags)) if (!TAGS.has(tag)) delete engine.tags[tag]
for (const name of Object.keys(engine.filters)) {
  if (!FILTERS.has(name)) delete engine.filters[name]
  else if (name !== 'default') engine.registerFilter(name, noticing(shippedFilters[name] as FilterHandler))
}

/** What is wrong with a template, and where (line from 1). */
export interface TemplateFault {
  line: number
  message: string
}

interface Parsed {
  templates: Template[]
  /** Where each field is named; names that the template assigns itself are not among them. */
  fields: Variables
}

/** What a template is written in: in HTML every value is escaped where it is written out. */
export type TemplateFormat = 'text' | 'html'

/** Templates parsed before: a cadence's step is filled in for many people. */
const known: Record<TemplateFormat, Map<string, Parsed>> = { text: new Map(), html: new Map() }
const KNOWN = 500

function parse(template: string, format: TemplateFormat = 'text'): Parsed | TemplateFault {
  const found = known[format].get(template)
  if (found) return found
  try {
    const templates = engine.parse(format === 'html' ? withPlainTags(template) : template)
    watchOutputs(templates, format)
    const parsed = { templates, fields: engine.analyzeSync(templates, { partials: false }).globals }
    if (known[format].size >= KNOWN) known[format].clear()
    known[format].set(template, parsed)
    return parsed
  } catch (error) {
    return faultOf(error)
  }
}

function faultOf(error: unknown): TemplateFault {
  const { message, token } = error as Error & { token?: { getPosition(): number[] } }
  const sentence = message.split(/, line:|\n/)[0]!
  const limit = /limit exceeded|call stack/i.test(sentence)
  return {
    line: token?.getPosition()[0] ?? 1,
    message: limit ? 'This template is too long or too deeply nested' : sentence,
  }
}

const escaping: FilterHandler = (value) =>
  typeof value === 'string' ? escapeHtml(value).replace(/\r\n?|\n/g, '<br>') : value

/**
 * Has every place that writes something out say which fields it lacked when it wrote nothing; in HTML, write it out as
 * text.
 */
function watchOutputs(templates: readonly Template[], format: TemplateFormat): void {
  const push = (output: Output, name: string, handler: FilterHandler) =>
    output.value.filters.push(new Filter({ name, args: [] } as never, handler as never, engine))
  for (const template of templates) {
    if (template instanceof Output) {
      const fields = Object.values(engine.analyzeSync([template], { partials: false }).variables).flat()
      const names = [...new Set(fields.map((field) => String(field.segments[0])))]
      const notice: FilterHandler = (value) => {
        if (value instanceof MissingValue || isBlank(value)) noteBlank(names, value)
        return value
      }
      push(template, 'notice', notice)
      if (format === 'html') push(template, 'escaping', escaping)
    } else if (template.children) watchOutputs(toValueSync(template.children(false, true)) as Template[], format)
  }
}

/** Whether a value writes nothing that a reader could use: empty text, or what came of reckoning with a word. */
function isBlank(value: unknown): boolean {
  return String(value ?? '').trim() === '' || (typeof value === 'number' && !Number.isFinite(value))
}

function noteBlank(names: readonly string[], value: unknown): void {
  if (!filling) return
  const { values, missing } = filling
  if (value instanceof MissingValue) return void missing.add(value.field)
  const lacking = names.filter((name) => !values[name])
  for (const name of lacking.length ? lacking : names) missing.add(name)
}

/**
 * Everything wrong with a template: a broken tag, a field that is neither a usual one nor one of `own`, or one that
 * cannot be filled in. Empty when it can be used.
 */
export function templateFaults(
  template: string,
  own: ReadonlyMap<string, unknown> = new Map(),
  format: TemplateFormat = 'text',
): TemplateFault[] {
  const parsed = parse(template, format)
  if ('message' in parsed) return [parsed]
  const faults = Object.entries(parsed.fields).flatMap(([name, places]) =>
    places.flatMap(({ segments, location }) => {
      if (!Object.hasOwn(MERGE_FIELDS, name) && !own.has(name)) {
        return [{ line: location.row, message: `There is no field "${name}"` }]
      }
      return segments.length > 1 ? [{ line: location.row, message: `"${name}" has no parts: write {{ ${name} }}` }] : []
    }),
  )
  if (faults.length) return faults
  const fields = Object.keys(parsed.fields)
  const trials = [Object.fromEntries(fields.map((name) => [name, 'Sample'])), {}]
  const failed = trials.map((values) => merge(template, values, format).error).find(Boolean)
  return failed ? [failed] : []
}

/**
 * Fills in a template. `missing` names the fields that would leave a hole: without a value and without a fallback
 * (`{{ first_name | default: "there" }}`), wherever they are used. `error` says why it could not be filled in at all;
 * then the text is empty. An email with a hole or an error in it must not go out. In HTML, values are written out as
 * text, whatever characters they have. Never throws.
 */
export function merge(
  template: string,
  values: MergeValues,
  format: TemplateFormat = 'text',
): { text: string; missing: string[]; error: TemplateFault | null } {
  const parsed = parse(template, format)
  if ('message' in parsed) return { text: '', missing: [], error: parsed }
  const absent = Object.keys(parsed.fields).filter((name) => !values[name])
  const missing = new Set<string>()
  filling = { values, missing }
  try {
    const text = engine.renderSync(parsed.templates, {
      ...values,
      ...Object.fromEntries(absent.map((name) => [name, new MissingValue(name)])),
    }) as string
    return { text, missing: [...missing], error: null }
  } catch (error) {
    return { text: '', missing: [], error: faultOf(error) }
  } finally {
    filling = null
  }
}

/**
 * A template in which one field goes by another name, wherever the field itself is named; equal words elsewhere stay.
 */
export function renameInTemplate(template: string, from: string, to: string): string {
  const parsed = parse(template)
  if ('message' in parsed) return template
  const lines = template.split('\n')
  const places = (parsed.fields[from] ?? [])
    .map(({ location }) => location)
    .sort((a, b) => b.row - a.row || b.col - a.col)
  for (const { row, col } of places) {
    const line = lines[row - 1]!
    if (line.startsWith(from, col - 1)) lines[row - 1] = line.slice(0, col - 1) + to + line.slice(col - 1 + from.length)
  }
  return lines.join('\n')
}
