import { DAY, type Id, type Instant } from '../instant'
import { ME, type Field } from './fields'
import { isCondition, partsOf, type Condition, type Filter, type Test } from './filter'
import { folded, type Viewpoint } from './matches'
import { boundsOf, firstDayFrom } from './moments'
import { nextActionSql } from './nextAction'
import { codesNamed, type NameTest } from '../places/lookUp'
import { boxesAround, boxOf, turnsOf, unwrapped, type Box } from './place'

/** A list that filters may speak of: a live one is its filter, a fixed one its members. */
export type ListMeaning = { kind: 'fixed' } | { kind: 'live'; filter: Filter }

/** What a translation is made with: the view, the fields by key, the lists by id. */
export interface Translation extends Viewpoint {
  fields: ReadonlyMap<string, Field>
  lists: ReadonlyMap<Id, ListMeaning>
  /** Takes a value, gives the placeholder that stands for it. */
  parameter(value: unknown): string
}

/** What a filter is asked of: `from prospects p left join companies c on c.id = p.company_id`. */
export const FILTER_FROM = 'prospects p left join companies c on c.id = p.company_id'

/**
 * FILTER_FROM, or people alone where none of the SQL speaks of their company: PostgreSQL leaves a join that tells
 * nothing out by itself, but goes on reading what it would have been joined by, and then an index alone does not do.
 */
export function fromFor(...sql: readonly string[]): string {
  return sql.some((text) => /\bc\./.test(text)) ? FILTER_FROM : 'prospects p'
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

/** Where a part of a filter stands: in which lists, and whether null must not come of it, because it is denied. */
interface Place {
  inside: readonly Id[]
  sure: boolean
}

function translate(filter: Filter, t: Translation, place: Place): string {
  if (isCondition(filter)) return condition(filter, t, place)
  const { kind, parts } = partsOf(filter)
  const each = parts.map((part) => translate(part, t, kind === 'none' ? { ...place, sure: true } : place))
  if (kind === 'all') return each.length ? `(${each.join(' and ')})` : 'true'
  const some = each.length ? `(${each.join(' or ')})` : 'false'
  return kind === 'any' ? some : `not ${some}`
}

/** One value as an expression, or how any of several rows is asked after. */
type Source =
  | { is: 'value'; sql: string; type?: 'uuid' }
  | { is: 'column'; sql: string }
  /** `known` is false where it may be null. */
  | { is: 'flag'; sql: string; known?: false }
  /** Values of rows, all of which count. */
  | { is: 'rows'; from: string; value: string; type: 'uuid' | 'text' }
  /** How many rows there are, in several places together. */
  | { is: 'count'; from: readonly string[] }
  | { is: 'json'; sql: string }
  | { is: 'lists' }
  /** Where the person is, or where they have no address their company is: a place of the gazetteer. */
  | { is: 'place' }

/** A moment that lies in a column of its own, compared as it is, so that its index helps. */
const column = (name: string): Source => ({ is: 'column', sql: name })
/** For how many days somebody is new (common practice, no published source). */
const NEW_DAYS = 7

const value = (sql: string): Source => ({ is: 'value', sql })
const key = (sql: string): Source => ({ is: 'value', sql, type: 'uuid' })
/** The deals of a person and of their company, each once. */
const DEALS = [
  'from deals d where d.prospect_id = p.id',
  'from deals d where d.company_id = p.company_id and d.prospect_id <> p.id',
]
const deals = (status: string): Source => ({
  is: 'count',
  from: DEALS.map((from) => `${from} and d.status = '${status}'`),
})
/** The custom fields of the deal that was opened last, of the person or at their company. */
const LATEST_DEAL = `
    (
      select d.custom
      from deals d
      where d.prospect_id = p.id or d.company_id = p.company_id
      order by d.opened_at desc, d.id desc
      limit 1
    )
  `
const CADENCES = 'from enrollments x where x.prospect_id = p.id'

/** Where the fields' values are found; moments as milliseconds since 1970 where they are values. */
const SOURCES: Record<string, Source> = {
  name: value(`btrim(p.first_name || ' ' || p.last_name)`),
  title: value('p.title'),
  stage: value('p.stage_id'),
  owner: key('p.owner_id'),
  rating: value('p.rating'),
  score: value('p.score'),
  tags: { is: 'rows', from: 'from prospect_tags x where x.prospect_id = p.id', value: 'x.tag_id', type: 'uuid' },
  status: value('p.status'),
  relationshipOwner: key('p.relationship_owner_id'),
  source: value('p.source'),
  import: key('p.import_id'),
  createdAt: column('p.created_at'),
  emailTypes: { is: 'json', sql: 'to_jsonb(p.email_types)' },
  email: value(
    `
      (
        select x.address
        from email_addresses x
        where x.prospect_id = p.id
        order by (x.status = 'bounced'), x.position, x.id
        limit 1
      )
    `,
  ),
  phone: value('(select x.number from phones x where x.prospect_id = p.id order by x.position, x.id limit 1)'),
  phoneStatuses: { is: 'rows', from: 'from phones x where x.prospect_id = p.id', value: 'x.status', type: 'text' },
  country: value('p.country'),
  region: value('p.region'),
  city: value('p.city'),
  postalCode: value('p.postal_code'),
  zone: value('p.zone'),
  stopCall: { is: 'flag', sql: 'p.stop_call' },
  stopEmail: { is: 'flag', sql: 'p.stop_email' },
  isCustomer: { is: 'flag', sql: `c.status = 'customer'`, known: false },
  companyName: value('c.name'),
  companyDomain: value('c.domain'),
  companyStatus: value('c.status'),
  companyIndustry: value('c.industry'),
  companySize: value('c.size'),
  companyCountry: value('c.country'),
  companyRegion: value('c.region'),
  companyCity: value('c.city'),
  companyPeople: value(
    'case when c.id is not null then (select count(*) from prospects x where x.company_id = p.company_id) end',
  ),
  lastTouch: column('p.last_touch_at'),
  lastCall: column('p.last_call_at'),
  lastText: column('p.last_text_at'),
  lastEmail: column('p.last_email_at'),
  lastReply: column('p.last_reply_at'),
  lastMeeting: column('p.last_meeting_at'),
  lastVisit: column('p.last_visit_at'),
  attempts: value('p.attempts'),
  conversations: value('p.conversations'),
  neverReached: { is: 'flag', sql: '(p.conversations = 0)' },
  nextAction: value(nextActionSql('p.id')),
  lastOutcome: key('p.last_outcome_id'),
  outcomes: {
    is: 'rows',
    from: 'from touches x where x.prospect_id = p.id and x.outcome_id is not null',
    value: 'x.outcome_id',
    type: 'uuid',
  },
  inCadence: { is: 'rows', from: `${CADENCES} and x.status <> 'ended'`, value: 'x.cadence_id', type: 'uuid' },
  wasInCadence: { is: 'rows', from: CADENCES, value: 'x.cadence_id', type: 'uuid' },
  cadenceEnded: { is: 'rows', from: `${CADENCES} and x.exit is not null`, value: 'x.exit', type: 'text' },
  wonDeals: deals('won'),
  openDeals: deals('open'),
  lostDeals: deals('lost'),
  dealValue: value(`greatest(${DEALS.map((from) => `(select max(d.value) ${from})`).join(', ')})`),
  lists: { is: 'lists' },
  place: { is: 'place' },
}

const OWN = /^(?:(company|deal):)?custom:(.+)$/
const isOwn = (field: Field) => OWN.test(field.key)

function sourceOf(field: Field, t: Translation): Source {
  const own = OWN.exec(field.key)
  if (!own) return field.key === 'isNew' ? newSource(t) : SOURCES[field.key]!
  const byRecord = own[1] ? 'c.custom' : 'p.custom'
  const holder = own[1] === 'deal' ? LATEST_DEAL : byRecord
  const key = t.parameter(own[2])
  switch (field.kind) {
    case 'several':
      return { is: 'json', sql: `(${holder} -> ${key}::text)` }
    case 'yesNo':
      return { is: 'flag', sql: `(${holder} ->> ${key}::text)::boolean`, known: false }
    case 'number':
      return value(`(${holder} ->> ${key}::text)::numeric`)
    case 'moment':
      return value(`ms((${holder} ->> ${key}::text)::date::timestamp at time zone ${t.parameter(t.zone)}::text)`)
    default:
      return value(`(${holder} ->> ${key}::text)`)
  }
}

/** True of whoever came a few days ago, own contacts aside. */
function newSource(t: Translation): Source {
  return {
    is: 'flag',
    sql: `(p.created_at > from_ms(${t.parameter(t.now - NEW_DAYS * DAY)}::bigint) and not p.own_contact)`,
  }
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
      const { from, to } = boundsOf(test, t.now, t.zone)
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
  return moment(sql, test, (at) => `${t.parameter(firstDayFrom(at, t.zone))}::text`, t, place)
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

/** The place of somebody's address, or where they give none, of their company's. */
export const PLACE_ID = `(case when coalesce(p.city, '') = '' then c.place_id else p.place_id end)`

/**
 * The places asked for are found first: they are few and lie in an index of space; the people at them are then found by
 * their places.
 */
function placed(test: Test, t: Translation, { sure }: Place): string {
  const among = (where: string) => `${PLACE_ID} in (select x.id from places x where ${where})`
  const known = (condition: string) => (sure ? `coalesce(${condition}, false)` : condition)
  switch (test.op) {
    case 'set':
      return `${PLACE_ID} is not null`
    case 'unset':
      return `${PLACE_ID} is null`
    case 'near':
      return known(among(nearSql(test, t)))
    case 'far':
      return known(`(${PLACE_ID} is not null and not ${among(nearSql(test, t))})`)
    case 'inside':
      return known(among(insideSql(test.area, t)))
    case 'notInside':
      return `not coalesce(${among(insideSql(test.area, t))}, false)`
    default:
      return 'false'
  }
}

function nearSql({ at, km }: Extract<Test, { op: 'near' | 'far' }>, t: Translation): string {
  const boxes = boxesAround(at, km).map((box) => `x.position <@ ${boxSql(box, t)}`)
  return `(${boxes.join(' or ')}) and km_between(x.position, ${t.parameter(`(${at[0]},${at[1]})`)}::point) <= ${t.parameter(km)}::float8`
}

/**
 * The area once as it is and, where it goes over the date line, once more a turn further; PostgreSQL's polygons wind as
 * `isInside` does.
 */
function insideSql(area: readonly (readonly [number, number])[], t: Translation): string {
  const ring = unwrapped(area)
  const turned = turnsOf(ring).map((turn) => {
    const corners = ring.map(([longitude, latitude]): [number, number] => [longitude + turn, latitude])
    return `(x.position <@ ${boxSql(boxOf(corners), t)} and x.position <@ ${t.parameter(`(${corners.map((corner) => `(${corner.join(',')})`).join(',')})`)}::polygon)`
  })
  return turned.length ? `(${turned.join(' or ')})` : 'false'
}

function boxSql({ west, south, east, north }: Box, t: Translation): string {
  return `${t.parameter(`(${east},${north}),(${west},${south})`)}::box`
}

/**
 * A person's values of all fields but membership of lists, as a column of JSON over FILTER_FROM: the facts that
 * `matches` reads.
 */
export function factsSql(t: Translation): string {
  const pairs = [...t.fields.values()]
    .filter((field) => field.key !== 'lists')
    .map((field) => {
      const source = sourceOf(field, t)
      return `${t.parameter(field.key)}::text, ${valueSql(source)}`
    })
  // A function takes at most a hundred arguments.
  const parts: string[] = []
  for (let index = 0; index < pairs.length; index += 45) {
    parts.push(`jsonb_build_object(${pairs.slice(index, index + 45).join(', ')})`)
  }
  return parts.join(' || ')
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
