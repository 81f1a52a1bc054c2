import type { Choice, Field } from './fields'
import {
  EVERYONE,
  FARTHEST_KM,
  isCondition,
  MOST_CORNERS,
  normalize,
  partsOf,
  SPANS,
  UNITS,
  type Condition,
  type Filter,
  type Test,
} from './filter'
import { folded } from './matches'
import { kmOf, milesOf, type Position } from './place'
import { opsOf } from './problems'

/** The longest sentence that is read, in characters. */
export const LONGEST_SENTENCE = 50_000

/** A sentence that cannot be read: what is wrong, and at which character. */
export class SentenceError extends Error {
  constructor(
    message: string,
    readonly at: number,
  ) {
    super(message)
  }
}

const quoted = (text: string) => `"${text.replace(/"/g, '""')}"`

/** How a choice is named so that it is found again: by its name, or by its id where the name is not its own. */
function choiceName(id: string, choices: readonly Choice[]): string {
  const choice = choices.find((one) => one.id === id)
  const alone =
    choice &&
    !choice.name.startsWith('#') &&
    choices.every((one) => one === choice || folded(one.name) !== folded(choice.name))
  return quoted(alone ? choice.name : `#${id}`)
}

/**
 * A filter as a sentence that people read and `parse` reads back. Fields that are gone stand under their keys in
 * brackets.
 */
export function print(filter: Filter, fields: ReadonlyMap<string, Field>): string {
  return printGroup(normalize(filter), fields)
}

function printGroup(filter: Exclude<Filter, Condition>, fields: ReadonlyMap<string, Field>): string {
  const { kind, parts } = partsOf(filter)
  const part = (one: Filter) => {
    if (isCondition(one)) return printCondition(one, fields)
    return 'none' in one || !partsOf(one).parts.length ? printGroup(one, fields) : `(${printGroup(one, fields)})`
  }
  // A single group needs no brackets around it: nothing stands beside it.
  const [only] = parts
  if (kind === 'all' && parts.length === 1 && only && !isCondition(only)) return printGroup(only, fields)
  if (kind === 'none') return `none of (${parts.map(part).join('; ')})`
  if (parts.length) return parts.map(part).join(kind === 'all' ? ' and ' : ' or ')
  return kind === 'all' ? 'everyone' : 'nobody'
}

/**
 * A sentence for eyes alone, not to be read back: without quotes, and without positions, which say nothing to a reader.
 */
export function forReading(sentence: string): string {
  return sentence
    .split(/("(?:[^"]|"")*")/)
    .map((part, index) =>
      index % 2
        ? part.slice(1, -1).replace(/""/g, '"')
        : part.replace(/ ?\((?:-?[\d.e-]+ -?[\d.e-]+(?:, )?)+\)/g, (found) =>
            found.includes(',') ? ' the drawn area' : '',
          ),
    )
    .join('')
}

/** Words and signs of the language, which a field's own name may hold too. */
const LANGUAGE =
  /(^|[^\p{L}])(not|none|everyone|nobody|and|or|is|has|contains|does|starts|was|were|within|before|after|on|in)([^\p{L}]|$)|["()[\];,]/iu

/**
 * Whether a field's name could be taken for something else: then it stands in quotes. Only the team chooses such names;
 * ours are clear.
 */
function needsQuotes(field: Field, fields: Iterable<Field>): boolean {
  if (!field.key.includes('custom:')) return false
  return (
    LANGUAGE.test(field.label) ||
    [...fields].some((other) => other !== field && folded(other.label) === folded(field.label))
  )
}

const fieldName = (field: Field, fields: ReadonlyMap<string, Field>) =>
  needsQuotes(field, fields.values()) ? quoted(field.label) : field.label

/** One condition as words. */
function printCondition({ field: key, test }: Condition, fields: ReadonlyMap<string, Field>): string {
  const field = fields.get(key)
  return `${field ? fieldName(field, fields) : `[${key}]`} ${printTest(test, field)}`
}

/** What is asked of a field, as words that follow its name. */
export function printTest(test: Test, field: Field | undefined): string {
  const moment = field?.kind === 'moment'
  const names = () =>
    'values' in test
      ? test.values.map((value) => (field?.choices ? choiceName(value, field.choices) : quoted(value))).join(', ')
      : ''
  const one = 'values' in test && test.values.length === 1
  switch (test.op) {
    case 'set':
      return moment ? 'is ever' : 'is set'
    case 'unset':
      return moment ? 'is never' : 'is not set'
    case 'yes':
      return 'is yes'
    case 'no':
      return 'is no'
    case 'is':
      return `is ${quoted(test.text)}`
    case 'isNot':
      return `is not ${quoted(test.text)}`
    case 'contains':
      return `contains ${quoted(test.text)}`
    case 'containsNot':
      return `does not contain ${quoted(test.text)}`
    case 'startsWith':
      return `starts with ${quoted(test.text)}`
    case 'anyOf':
      return one ? `is ${names()}` : `is any of ${names()}`
    case 'noneOf':
      return one ? `is not ${names()}` : `is none of ${names()}`
    case 'hasAny':
      return one ? `has ${names()}` : `has any of ${names()}`
    case 'hasAll':
      return `has all of ${names()}`
    case 'hasNone':
      return `has none of ${names()}`
    case 'exactly':
      return `is exactly ${names()}`
    case 'equals':
      return `is ${test.number}`
    case 'differs':
      return `is not ${test.number}`
    case 'atLeast':
      return `is at least ${test.number}`
    case 'atMost':
      return `is at most ${test.number}`
    case 'moreThan':
      return `is more than ${test.number}`
    case 'lessThan':
      return `is less than ${test.number}`
    case 'between':
      return `is between ${test.from} and ${test.to}`
    case 'moreAgo':
      return `is more than ${duration(test)} ago${test.orNever ? ' or never' : ''}`
    case 'inLast':
      return `is in the last ${duration(test)}`
    case 'inNext':
      return `is in the next ${duration(test)}`
    case 'moreAhead':
      return `is more than ${duration(test)} ahead`
    case 'during':
      return `is ${test.span}`
    case 'near':
      return `is within ${distance(test)} of ${quoted(test.name)} ${point(test.at)}`
    case 'far':
      return `is more than ${distance(test)} from ${quoted(test.name)} ${point(test.at)}`
    case 'inside':
      return `is inside ${corners(test.area)}`
    case 'notInside':
      return `is not inside ${corners(test.area)}`
    default:
      return `is ${test.op} ${/day$/.test(test.day) && test.day !== 'today' ? `next ${test.day}` : test.day}${'orNever' in test && test.orNever ? ' or never' : ''}`
  }
}

function distance({ km, miles }: { km: number; miles?: true }): string {
  if (!miles) return `${km} km`
  const count = milesOf(km)
  return `${count} ${count === 1 ? 'mile' : 'miles'}`
}

/** Latitude before longitude, as positions are written (ISO 6709). */
function point([longitude, latitude]: Position): string {
  return `(${latitude} ${longitude})`
}

function corners(area: readonly Position[]): string {
  return `(${area.map(([longitude, latitude]) => `${latitude} ${longitude}`).join(', ')})`
}

function duration({ amount, unit }: { amount: number; unit: string }): string {
  return `${amount} ${amount === 1 ? unit.slice(0, -1) : unit}`
}

/** Reads a sentence; the inverse of `print` for filters in their plainest form. Throws SentenceError. */
export function parse(sentence: string, fields: Iterable<Field>): Filter {
  if (sentence.length > LONGEST_SENTENCE) {
    throw new SentenceError(
      `The text is too long: ${sentence.length} characters, and at most ${LONGEST_SENTENCE} can be read`,
      LONGEST_SENTENCE,
    )
  }
  const reader = new Reader(sentence, [...fields])
  return reader.whole()
}

const DAY_NAMES = ['today', 'monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday', 'sunday'] as const

class Reader {
  private at = 0
  private readonly byLength: readonly Field[]
  private readonly inQuotes: readonly Field[]

  constructor(
    private readonly text: string,
    fields: readonly Field[],
  ) {
    this.byLength = [...fields]
      .filter((field) => !needsQuotes(field, fields))
      .sort((a, b) => b.label.length - a.label.length)
    this.inQuotes = fields.filter((field) => field.key.includes('custom:'))
  }

  whole(): Filter {
    this.space()
    if (this.at === this.text.length) return EVERYONE
    const filter = this.group(0)
    if (this.at < this.text.length) this.fail('Expected "and", "or" or the end here')
    return normalize(filter)
  }

  /** Parts joined by "and" or by "or"; mixing them wants brackets. */
  private group(level: number): Filter {
    if (level > 40) this.fail('There are too many brackets')
    const parts = [this.part(level)]
    let joint: 'and' | 'or' | null = null
    for (;;) {
      const start = this.at
      const next = (['and', 'or'] as const).find((word) => this.words(word))
      if (!next) break
      if (joint && next !== joint) {
        this.fail('Put brackets around what belongs together: "and" and "or" are mixed here', start)
      }
      joint = next
      parts.push(this.part(level))
    }
    if (parts.length === 1) return parts[0]!
    return joint === 'or' ? { any: parts } : { all: parts }
  }

  private part(level: number): Filter {
    if (this.words('everyone')) return { all: [] }
    if (this.words('nobody')) return { any: [] }
    if (this.words('none of') || this.words('not')) {
      this.sign('(')
      const parts: Filter[] = []
      while (!this.takes(')')) {
        if (parts.length) this.sign(';')
        parts.push(this.group(level + 1))
      }
      return { none: parts }
    }
    if (this.takes('(')) {
      const inner = this.group(level + 1)
      this.sign(')')
      return inner
    }
    return this.condition()
  }

  private condition(): Condition {
    const start = this.at
    const field = this.text[this.at] === '"' ? this.quotedField() : this.byLength.find((one) => this.words(one.label))
    if (!field) this.fail('No field has this name', start)
    const test = this.test(field)
    if (!opsOf(field).includes(test.op)) this.fail(`"${field.label}" cannot be asked that way`, start)
    return { field: field.key, test }
  }

  private quotedField(): Field | undefined {
    const name = folded(this.quote())
    return this.inQuotes.find((field) => folded(field.label) === name)
  }

  private test(field: Field): Test {
    if (this.words('does not contain')) return { op: 'containsNot', text: this.quote() }
    if (this.words('contains')) return { op: 'contains', text: this.quote() }
    if (this.words('starts with')) return { op: 'startsWith', text: this.quote() }
    if (this.words('has any of')) return { op: 'hasAny', values: this.values(field) }
    if (this.words('has all of')) return { op: 'hasAll', values: this.values(field) }
    if (this.words('has none of')) return { op: 'hasNone', values: this.values(field) }
    if (this.words('has')) return { op: 'hasAny', values: [this.value(field)] }
    if (!this.words('is') && !this.words('was') && !this.words('are')) {
      this.fail(`What is asked of "${field.label}" is not understood`)
    }
    if (field.kind === 'place') return this.place()
    if (field.kind === 'moment') return this.moment()
    return field.kind === 'number' ? this.number() : this.plain(field)
  }

  private plain(field: Field): Test {
    if (this.words('not set')) return { op: 'unset' }
    if (this.words('set')) return { op: 'set' }
    if (field.kind === 'yesNo') {
      return { op: (['yes', 'no'] as const).find((word) => this.words(word)) ?? this.fail('Expected yes or no') }
    }
    if (field.kind === 'text') {
      return this.words('not') ? { op: 'isNot', text: this.quote() } : { op: 'is', text: this.quote() }
    }
    if (this.words('any of')) return { op: 'anyOf', values: this.values(field) }
    if (this.words('none of')) return { op: 'noneOf', values: this.values(field) }
    if (this.words('exactly')) return { op: 'exactly', values: this.values(field) }
    return this.words('not')
      ? { op: 'noneOf', values: [this.value(field)] }
      : { op: field.kind === 'several' ? 'hasAny' : 'anyOf', values: [this.value(field)] }
  }

  private number(): Test {
    if (this.words('not set')) return { op: 'unset' }
    if (this.words('set')) return { op: 'set' }
    if (this.words('not')) return { op: 'differs', number: this.figure() }
    if (this.words('at least')) return { op: 'atLeast', number: this.figure() }
    if (this.words('at most')) return { op: 'atMost', number: this.figure() }
    if (this.words('more than')) return { op: 'moreThan', number: this.figure() }
    if (this.words('less than')) return { op: 'lessThan', number: this.figure() }
    if (this.words('between')) {
      const from = this.figure()
      if (!this.words('and')) this.fail('Expected "and" and a second number')
      return { op: 'between', from, to: this.figure() }
    }
    return { op: 'equals', number: this.figure() }
  }

  private moment(): Test {
    if (this.words('never') || this.words('not set')) return { op: 'unset' }
    if (this.words('ever') || this.words('set')) return { op: 'set' }
    if (this.words('in the last')) return { op: 'inLast', ...this.duration() }
    if (this.words('in the next')) return { op: 'inNext', ...this.duration() }
    if (this.words('more than')) {
      const far = this.duration()
      if (this.words('ago')) return { op: 'moreAgo', ...far, ...this.orNever() }
      return this.words('ahead') ? { op: 'moreAhead', ...far } : this.fail('Expected "ago" or "ahead"')
    }
    const span = SPANS.find((name) => this.words(name))
    if (span) return { op: 'during', span }
    const side = (['before', 'after', 'on'] as const).find((name) => this.words(name))
    if (!side) this.fail('When? For example "more than 2 days ago", "this week", "before next monday" or "never"')
    this.words('next')
    const name = DAY_NAMES.find((day) => this.words(day))
    const day = name ?? this.match(/\d{4}-\d{2}-\d{2}/y)
    if (day && side === 'before') return { op: side, day, ...this.orNever() }
    return day ? { op: side, day } : this.fail('Which day? For example 2026-11-23, today or next monday')
  }

  private orNever(): { orNever?: true } {
    const start = this.at
    if (!this.words('or never')) return {}
    // "or never reached is yes" is the next condition.
    if (/^(?:$|[);]|(?:and|or)(?![\p{L}\p{N}_]))/iu.test(this.text.slice(this.at))) return { orNever: true }
    this.at = start
    return {}
  }

  private place(): Test {
    if (this.words('not set')) return { op: 'unset' }
    if (this.words('set')) return { op: 'set' }
    if (this.words('within')) return { op: 'near', ...this.distance(), ...this.spot('of') }
    if (this.words('more than')) return { op: 'far', ...this.distance(), ...this.spot('from') }
    const inside = this.words('inside') ? ('inside' as const) : null
    const op = this.words('not inside') ? ('notInside' as const) : inside
    if (!op) {
      this.fail('Where? For example within 50 km of "Ithaca, NY, US" (42.44 -76.5), or inside (42 -77, 43 -77, 43 -76)')
    }
    const start = this.at
    const area = this.positions(540)
    return area.length < 3 || area.length > MOST_CORNERS
      ? this.fail(`Expected 3 to ${MOST_CORNERS} corners`, start)
      : { op, area }
  }

  private distance(): { km: number; miles?: true } {
    const start = this.at
    const figure = this.figure()
    const miles = this.words('miles') || this.words('mile')
    if (!miles && !this.words('km')) this.fail('Expected "km" or "miles"')
    const km = miles ? kmOf(figure) : figure
    if (km < 0.1 || km > FARTHEST_KM) this.fail(`Expected 0.1 to ${FARTHEST_KM} km`, start)
    return { km, ...(miles && { miles: true as const }) }
  }

  private spot(joint: string): { name: string; at: [number, number] } {
    if (!this.words(joint)) this.fail(`Expected "${joint}" and a place`)
    const name = this.quote()
    const start = this.at
    const [at, more] = this.positions(180)
    return at && !more ? { name, at } : this.fail('Expected one position, like (42.44 -76.5)', start)
  }

  /** Positions in brackets, latitude before longitude. */
  private positions(farthest: number): [number, number][] {
    const found: [number, number][] = []
    this.sign('(')
    do {
      const start = this.at
      const [latitude, longitude] = [this.figure(), this.figure()]
      if (Math.abs(latitude) > 90 || Math.abs(longitude) > farthest) {
        this.fail('No place lies there: latitude goes from -90 to 90, longitude from -180 to 180', start)
      }
      found.push([longitude, latitude])
    } while (this.takes(','))
    this.sign(')')
    return found
  }

  private duration(): { amount: number; unit: (typeof UNITS)[number] } {
    const amount = this.figure()
    if (!Number.isInteger(amount) || amount < 1 || amount > 10_000) this.fail('Expected a whole number from 1 to 10000')
    const unit = UNITS.find((name) => this.words(name) || this.words(name.slice(0, -1)))
    return { amount, unit: unit ?? this.fail('Expected hours, days, weeks or months') }
  }

  private figure(): number {
    const found = this.match(/-?\d+(\.\d+)?(e[+-]?\d+)?/iy)
    const figure = Number(found)
    return found === null || Math.abs(figure) > 1e12 ? this.fail('Expected a number') : figure
  }

  private quote(): string {
    const found = this.match(/"(?:[^"]|"")*"/y)
    const text = found?.slice(1, -1).replace(/""/g, '"').trim()
    return text ? text : this.fail('Expected text between quotes, like "cellar"')
  }

  private values(field: Field): string[] {
    const found = [this.value(field)]
    while (this.takes(',')) found.push(this.value(field))
    return found
  }

  private value(field: Field): string {
    const start = this.at
    if (!field.choices) return this.quote()
    const text = this.text[this.at] === '"' ? this.quote() : null
    const choice =
      text === null
        ? [...field.choices].sort((a, b) => b.name.length - a.name.length).find((one) => this.words(one.name))
        : (field.choices.find((one) => folded(one.name) === folded(text)) ??
          field.choices.find((one) => `#${one.id}` === text))
    return (
      choice?.id ?? this.fail(`"${field.label}" has no value ${text === null ? 'of this name' : quoted(text)}`, start)
    )
  }

  private space(): void {
    while (this.at < this.text.length && /\s/.test(this.text[this.at]!)) this.at++
  }

  private match(pattern: RegExp): string | null {
    pattern.lastIndex = this.at
    const found = pattern.exec(this.text)
    if (!found) return null
    this.at += found[0].length
    this.space()
    return found[0]
  }

  /** Takes words if they stand here, whatever their case and the space between them. */
  private words(wanted: string): boolean {
    const pattern = wanted
      .split(/\s+/)
      .map((word) => word.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'))
      .join('\\s+')
    return this.match(new RegExp(`${pattern}(?![\\p{L}\\p{N}_])`, 'iuy')) !== null
  }

  private takes(sign: string): boolean {
    if (this.text[this.at] !== sign) return false
    this.at++
    this.space()
    return true
  }

  private sign(sign: string): void {
    if (!this.takes(sign)) this.fail(`Expected "${sign}" here`)
  }

  private fail(message: string, at = this.at): never {
    throw new SentenceError(message, at)
  }
}
