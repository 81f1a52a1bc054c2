import type { Id, Instant } from '../instant'
import { ME, type Field } from './fields'
import { isCondition, partsOf, type Condition, type Filter, type Test } from './filter'
import { folded } from './matches'
import { boundsOf, firstDayFrom } from './moments'
import { codesNamed, type NameTest } from '../places/lookUp'
import { isOwn, sourceOf, type Source } from './sqlSources'
import { PLACE_ID, placed } from './sqlPlace'
import type { Place, Translation } from './sqlTranslation'

/** What a filter is asked of: `from prospects p left join companies c on c.id = p.company_id`. */
export const FILTER_FROM = filterFrom({ readsCompany: true })

/**
 * FILTER_FROM, or prospects alone where nothing that was translated speaks of their company: PostgreSQL leaves a join
 * that tells nothing out by itself, but goes on reading what it would have been joined by, and then an index alone does
 * not do. `sample`: a `tablesample` clause for the prospects.
 */
export function filterFrom({ readsCompany }: Pick<Translation, 'readsCompany'>, sample = ''): string {
  return `prospects p${sample && ` ${sample}`}${readsCompany ? ' left join companies c on c.id = p.company_id' : ''}`
}

/** A list that is made of itself has no meaning; `through` names the lists on the way round. */
export class CircularLists extends Error {
  constructor(readonly through: readonly Id[]) {
    super('These lists refer to each other')
  }
}

/**
 * A filter as an SQL condition over FILTER_FROM, true or false for every row and never null; the same meaning as
 * `matches`. Every value goes through `parameter`. Throws CircularLists.
 */
export function toSql(filter: Filter, translation: Translation): string {
  return translate(filter, translation, { inside: [], sure: true })
}

/**
 * As `toSql`, for a place where null is as good as false, as after "where": comparisons stand as they are, so that
 * indexes help. Throws CircularLists.
 */
export function toWhere(filter: Filter, translation: Translation): string {
  return translate(filter, translation, { inside: [], sure: false })
}

function translate(filter: Filter, t: Translation, place: Place): string {
  if (isCondition(filter)) return condition(filter, t, place)
  const { kind, parts } = partsOf(filter)
  const each = parts.map((part) => translate(part, t, kind === 'none' ? { ...place, sure: true } : place))
  if (kind === 'all') return each.length ? `(${each.join(' and ')})` : 'true'
  const some = each.length ? `(${each.join(' or ')})` : 'false'
  return kind === 'any' ? some : `not ${some}`
}

function condition({ field: name, test }: Condition, t: Translation, place: Place): string {
  const field = t.fields.get(name)
  if (!field) return 'false'
  if (field.kind === 'moment' && isOwn(field)) return days(field, test, t, place)
  const source = sourceOf(field, t)
  const wanted = 'values' in test ? test.values.map((one) => (one === ME ? (t.me ?? '') : one)) : []
  switch (source.is) {
    case 'flag': {
      const sure =
        source.known === false && (place.sure || test.op === 'no') ? `coalesce(${source.sql}, false)` : source.sql
      return test.op === 'no' ? `not ${sure}` : sure
    }
    case 'column':
      return moment(source.sql, test, (at) => `from_ms(${t.parameter(at)}::bigint)`, t, place)
    case 'rows':
      return rows(source, test, wanted, t)
    case 'count':
      return counted(source.from, field, test, t, place)
    case 'json':
      return json(source.sql, test, wanted, t, place)
    case 'lists':
      return lists(test, wanted, t, place)
    case 'place':
      return placed(test, t, place)
    case 'value':
      return single(source, field, test, wanted, t, place)
  }
}

/** A comparison that is never null where that matters. */
function settled(comparison: string, { sure }: Place): string {
  return sure ? `coalesce(${comparison}, false)` : `(${comparison})`
}

function single(
  { sql, type }: Extract<Source, { is: 'value' }>,
  field: Field,
  test: Test,
  wanted: readonly string[],
  t: Translation,
  place: Place,
): string {
  const plain = type ? `${sql}::text` : sql
  const text = () => `lower(coalesce(${plain}, ''))`
  /** Text that holds something is compared as it is: what is missing does not hold it. */
  const holds = (comparison: (text: string) => string) =>
    (test as { text: string }).text ? compare(comparison(`lower(${plain})`)) : comparison(text())
  const asked = () => `${t.parameter(folded((test as { text: string }).text))}::text`
  /** A comparison of text, or that it is the code of a country or region whose name fits. */
  const orNamed = (how: NameTest, value: string, comparison: string) => {
    const codes = field.codes ? codesNamed(field.codes, how, (test as { text: string }).text) : []
    return codes.length ? `${comparison} or ${value} = any(${t.parameter(codes)}::text[])` : comparison
  }
  const number = () => `${t.parameter((test as { number: number }).number)}::numeric`
  const choices = type ? wanted.filter((one) => UUID.test(one)) : wanted
  // One is compared as such: then an index whose order begins with it gives the order behind it too.
  const among = () =>
    choices.length === 1
      ? `${sql} = ${t.parameter(choices[0])}::${type ?? 'text'}`
      : `${sql} = any(${t.parameter(choices)}::${type ?? 'text'}[])`
  const compare = (comparison: string) => settled(comparison, place)
  const empty = (field.kind === 'text' || field.kind === 'choice') && !type
  switch (test.op) {
    case 'set':
      return empty ? `coalesce(${sql}, '') <> ''` : `${sql} is not null`
    case 'unset':
      return empty ? `coalesce(${sql}, '') = ''` : `${sql} is null`
    case 'is':
      return holds((value) => orNamed('is', value, `${value} = ${asked()}`))
    case 'isNot':
      return `not (${orNamed('is', text(), `${text()} = ${asked()}`)})`
    case 'contains':
      return holds((value) => orNamed('contains', value, `position(${asked()} in ${value}) > 0`))
    case 'containsNot':
      return `not (${orNamed('contains', text(), `position(${asked()} in ${text()}) > 0`)})`
    case 'startsWith':
      return holds((value) => orNamed('startsWith', value, `starts_with(${value}, ${asked()})`))
    case 'anyOf':
    case 'hasAny':
      return compare(among())
    case 'noneOf':
    case 'hasNone':
      return `not coalesce(${among()}, false)`
    case 'equals':
      return compare(`${sql} = ${number()}`)
    case 'differs':
      return `${sql} is distinct from ${number()}`
    case 'atLeast':
      return compare(`${sql} >= ${number()}`)
    case 'atMost':
      return compare(`${sql} <= ${number()}`)
    case 'moreThan':
      return compare(`${sql} > ${number()}`)
    case 'lessThan':
      return compare(`${sql} < ${number()}`)
    case 'between':
      return compare(`${sql} between ${t.parameter(test.from)}::numeric and ${t.parameter(test.to)}::numeric`)
    default:
      return moment(sql, test, (at) => `${t.parameter(at)}::bigint`, t, place)
  }
}

/** Whether there are any is asked as such: that is found without counting. */
function counted(from: readonly string[], field: Field, test: Test, t: Translation, place: Place): string {
  const [some, none] = [
    [
      ['atLeast', 1],
      ['moreThan', 0],
      ['differs', 0],
    ],
    [
      ['equals', 0],
      ['atMost', 0],
      ['lessThan', 1],
    ],
  ].map((asked) => 'number' in test && asked.some(([op, number]) => op === test.op && number === test.number))
  if (some) return `(${from.map((rows) => `exists (select ${rows})`).join(' or ')})`
  if (none) return `(${from.map((rows) => `not exists (select ${rows})`).join(' and ')})`
  return single({ is: 'value', sql: countSql(from) }, field, test, [], t, place)
}

function countSql(from: readonly string[]): string {
  return `(${from.map((rows) => `(select count(*) ${rows})`).join(' + ')})`
}

function moment(sql: string, test: Test, bound: (at: Instant) => string, t: Translation, place: Place): string {
  switch (test.op) {
    case 'set':
      return `${sql} is not null`
    case 'unset':
      return `${sql} is null`
    case 'moreAgo':
    case 'inLast':
    case 'inNext':
    case 'moreAhead':
    case 'during':
    case 'before':
    case 'after':
    case 'on': {
      const { from, to } = boundsOf(test, t.now, t.timeZone)
      const inside = settled(
        [
          ...(from === null ? [] : [`${sql} >= ${bound(from)}`]),
          ...(to === null ? [] : [`${sql} < ${bound(to)}`]),
        ].join(' and '),
        place,
      )
      return 'orNever' in test ? `(${sql} is null or ${inside})` : inside
    }
    default:
      return 'false'
  }
}

/** A date of the team's own is compared as the day it is, written as it is kept, so that an index of these helps. */
function days(field: Field, test: Test, t: Translation, place: Place): string {
  const { sql } = sourceOf({ ...field, kind: 'text' }, t) as Extract<Source, { is: 'value' }>
  return moment(sql, test, (at) => `${t.parameter(firstDayFrom(at, t.timeZone))}::text`, t, place)
}

const UUID = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/i

function rows(
  { from, value: sql, type }: Extract<Source, { is: 'rows' }>,
  test: Test,
  wanted: readonly string[],
  t: Translation,
): string {
  // What cannot be an id is nobody's.
  const known = [
    ...new Set(type === 'uuid' ? wanted.filter((one) => UUID.test(one)).map((one) => one.toLowerCase()) : wanted),
  ]
  const among = () => `${t.parameter(known)}::${type}[]`
  const all = () =>
    known.length === new Set(wanted).size
      ? `(select count(distinct ${sql}) ${from} and ${sql} = any(${among()})) = ${known.length}`
      : 'false'
  switch (test.op) {
    case 'set':
      return `exists (select ${from})`
    case 'unset':
      return `not exists (select ${from})`
    case 'hasAny':
    case 'anyOf':
      return `exists (select ${from} and ${sql} = any(${among()}))`
    case 'hasNone':
    case 'noneOf':
      return `not exists (select ${from} and ${sql} = any(${among()}))`
    case 'hasAll':
      return all()
    case 'exactly':
      return `(${all()} and not exists (select ${from} and ${sql} <> all(${among()})))`
    default:
      return 'false'
  }
}

function json(sql: string, test: Test, wanted: readonly string[], t: Translation, place: Place): string {
  const among = () => `${t.parameter(wanted)}::text[]`
  const sure = (comparison: string) => `coalesce(${comparison}, false)`
  switch (test.op) {
    case 'set':
      return sure(`jsonb_array_length(${sql}) > 0`)
    case 'unset':
      return `not ${sure(`jsonb_array_length(${sql}) > 0`)}`
    case 'hasAny':
    case 'anyOf':
      return settled(`${sql} ?| ${among()}`, place)
    case 'hasNone':
    case 'noneOf':
      return `not ${sure(`${sql} ?| ${among()}`)}`
    case 'hasAll':
      return settled(`${sql} ?& ${among()}`, place)
    case 'exactly':
      return sure(`${sql} ?& ${among()} and ${sql} <@ to_jsonb(${among()})`)
    default:
      return 'false'
  }
}

function lists(test: Test, wanted: readonly string[], t: Translation, { inside, sure }: Place): string {
  const member = (id: Id): string => {
    const meaning = t.lists.get(id)
    if (!meaning) return 'false'
    if (meaning.kind === 'fixed') {
      return `exists (select from list_members x where x.list_id = ${t.parameter(id)}::uuid and x.prospect_id = p.id)`
    }
    if (inside.includes(id)) throw new CircularLists([...inside, id])
    return translate(meaning.filter, t, {
      inside: [...inside, id],
      sure: sure || test.op === 'hasNone' || test.op === 'noneOf',
    })
  }
  const each = wanted.map(member)
  switch (test.op) {
    case 'hasAny':
    case 'anyOf':
      return `(${each.join(' or ')})`
    case 'hasNone':
    case 'noneOf':
      return `not (${each.join(' or ')})`
    case 'hasAll':
      return `(${each.join(' and ')})`
    default:
      return 'false'
  }
}

/**
 * A person's values of the fields named (all, without) but membership of lists, as a column of JSON over FILTER_FROM:
 * the facts that `matches` reads.
 */
export function factsSql(t: Translation, asked?: ReadonlySet<string>): string {
  const pairs = [...t.fields.values()]
    .filter((field) => field.key !== 'lists' && (!asked || asked.has(field.key)))
    .map((field) => {
      const source = sourceOf(field, t)
      return `${t.parameter(field.key)}::text, ${valueSql(source)}`
    })
  // A function takes at most a hundred arguments.
  const parts: string[] = []
  for (let index = 0; index < pairs.length; index += 45) {
    parts.push(`jsonb_build_object(${pairs.slice(index, index + 45).join(', ')})`)
  }
  return parts.join(' || ') || `'{}'::jsonb`
}

/**
 * What people are put in order by, and its type: moments as they are, text in small letters. Null where they cannot be.
 */
export function orderSql(
  field: Field,
  t: Translation,
): { sql: string; type: 'text' | 'numeric' | 'bigint' | 'boolean' | 'timestamptz' } | null {
  const source = sourceOf(field, t)
  if (source.is === 'column') return { sql: source.sql, type: 'timestamptz' }
  const value = valueSql(source)
  switch (field.kind) {
    case 'text':
    case 'choice':
      return { sql: `lower(nullif(${value}, ''))`, type: 'text' }
    case 'number':
      return { sql: `(${value})::numeric`, type: 'numeric' }
    case 'moment':
      return { sql: value, type: 'bigint' }
    case 'yesNo':
      return { sql: value, type: 'boolean' }
    case 'several':
    case 'place':
      return null
  }
}

function valueSql(source: Source): string {
  switch (source.is) {
    case 'column':
      return `ms(${source.sql})`
    case 'count':
      return countSql(source.from)
    case 'value':
      return source.type ? `${source.sql}::text` : source.sql
    case 'rows':
      return `(select coalesce(jsonb_agg(distinct ${source.value}::text), '[]') ${source.from})`
    case 'lists':
      return `'[]'::jsonb`
    case 'place':
      return `(select jsonb_build_array(x.position[0], x.position[1]) from places x where x.id = ${PLACE_ID})`
    case 'flag':
      return `coalesce(${source.sql}, false)`
    default:
      return source.sql
  }
}
