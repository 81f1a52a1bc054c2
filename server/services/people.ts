import { EVERYONE, type Filter } from '#core/filter/filter'
import { factsSql, FILTER_FROM, orderSql, toSql } from '#core/filter/sql'
import { DAY, type Id } from '#core/instant'
import { dueAtOf, soonDays, standingOf, strictest, type TouchPromise } from '#core/queue/promise'
import type { ProspectRow } from '#shared/api/prospects'
import { db } from '../db/pool'
import { Refusal } from './errors'
import { ask, countPeople, filterWorld, IN_SIGHT, inWords, problemsOfList, readFilter, type FilterWorld, type PeopleQuestion } from './filters'
import { mayReadList, readList } from './listAccess'
import { ROW, ROW_JOINS, searchCondition } from './prospectRows'
import type { Viewer } from './sessions'

/** Whom somebody asks for: by filter, on a list, by what they type, or all of these at once. */
export interface PeopleAsked { filter?: Filter | string, list?: Id, search?: string }

/** Translates what somebody asks for. Throws where the list is not theirs to see, or cannot be read any more. */
export async function question(viewer: Viewer, asked: PeopleAsked, world: FilterWorld): Promise<PeopleQuestion & { filter: Filter }> {
  const filter = readFilter(asked.filter, world)
  const list = asked.list ? await readList(viewer, asked.list) : null
  const broken = list ? problemsOfList(list.filter as Filter | null, world) : []
  if (broken.length) throw new Refusal('refused', `This list cannot be read as it is. ${broken.join('. ')}`)
  const whole: Filter = asked.list ? { all: [filter, { field: 'lists', test: { op: 'hasAny', values: [asked.list] } }] } : filter
  const search = asked.search?.trim()
  return { ...ask(viewer, whole, world, parameter => search ? [searchCondition(search, parameter)] : []), filter }
}

/** How many people somebody asks for, with the filter as it was understood. */
export async function countAsked(viewer: Viewer, asked: PeopleAsked) {
  const world = await filterWorld(viewer)
  const about = await question(viewer, asked, world)
  return { ...await countPeople(about), filter: about.filter, sentence: inWords(about.filter, world) }
}

interface Cursor { value: string | number | null, id: Id }

interface PromisingList { id: Id, days: number, kinds: string[] }

/** The lists that promise touches, as the viewer sees them. */
async function promisingLists(viewer: Viewer): Promise<PromisingList[]> {
  const { rows } = await db().query<PromisingList>(`select l.id, l.touch_every_days as days, l.touch_kinds as kinds from lists l where l.touch_every_days is not null and ${mayReadList('l', '$1', '$2')} order by l.position`, [viewer.id, viewer.role !== 'rep'])
  return rows
}

/** The kinds of touches a promise can count, in the order the indexes have them. */
const COUNTED = ['call', 'text', 'email', 'meeting']

/** The last touch of the kinds that count for a list, as a moment or null. */
function lastCounted(kinds: readonly string[]): string {
  return `greatest(${COUNTED.filter(kind => kinds.includes(kind)).map(kind => `p.last_${kind}_at`).join(', ')})`
}

/** What a promise is counted from: that touch, else when the person was added. */
function countedFrom(kinds: readonly string[]): string {
  return `coalesce(${lastCounted(kinds)}, p.created_at)`
}

/** What every list that promises touches has promised to a person, as JSON over FILTER_FROM. */
function promisesSql(lists: readonly PromisingList[], about: PeopleQuestion): string {
  const each = lists.map(({ id, days, kinds }) => `case when ${toSql({ field: 'lists', test: { op: 'hasAny', values: [id] } }, about)} then jsonb_build_object('listId', ${about.parameter(id)}::text, 'everyDays', ${about.parameter(days)}::int, 'lastAt', ms(${lastCounted(kinds)})) end`)
  return each.length ? `to_json(array_remove(array[${each.join(', ')}]::jsonb[], null))` : `'[]'::json`
}

/** How a list's promise stands with its people, all counted; null where it promises nothing. */
export async function promiseCounts(viewer: Viewer, listId: Id, world: FilterWorld): Promise<{ past: number, soon: number, within: number, neglected: number } | null> {
  const list = (await promisingLists(viewer)).find(one => one.id === listId)
  if (!list) return null
  const about = ask(viewer, { field: 'lists', test: { op: 'hasAny', values: [listId] } }, world)
  const [days, soon, now] = [list.days * DAY, soonDays(list.days) * DAY, world.now].map(value => `${about.parameter(value)}::bigint`)
  const { rows: [row] } = await db().query<{ past: number, soon: number, within: number, neglected: number }>(`select count(*) filter (where due - ${now} < 0) as past, count(*) filter (where due - ${now} between 0 and ${soon}) as soon, count(*) filter (where due - ${now} > ${soon}) as within, count(*) filter (where due - ${now} < 0 and not planned) as neglected
    from (select ms(${countedFrom(list.kinds)}) + ${days} as due,
      (exists (select from tasks x where x.prospect_id = p.id and x.state = 'open') or exists (select from enrollments x where x.prospect_id = p.id and x.state = 'waiting')) as planned
      from ${FILTER_FROM} where ${about.where}${about.showsRemoved ? '' : IN_SIGHT}) promised`, about.values)
  return row!
}

/**
 * People in the order of any field, those without a value last; without an order, the newest first. `next` goes on where
 * a page ended, whatever has changed meanwhile. `values` holds the columns asked for, by the fields' keys. A list that
 * promises touches comes in the order in which its promise falls due.
 */
export async function findPeople(viewer: Viewer, asked: PeopleAsked & { columns: readonly string[], sort: { field: string, down: boolean } | null, after?: string, limit: number }) {
  const world = await filterWorld(viewer)
  const about = await question(viewer, asked, world)
  const promising = asked.list ? await promisingLists(viewer) : []
  const promises = promising.find(list => list.id === asked.list)
  const order = asked.sort ?? (promises ? { field: 'promise', down: false } : { field: 'createdAt', down: true })
  const key = keyOf(order.field, promises, about)
  if (!key) throw new Refusal('invalid', 'People cannot be put in this order', [{ field: 'sort', message: 'People cannot be put in this order' }])
  const after = asked.after ? readCursor(asked.after) : null
  const page = after ? ` and ${pastCursor(after, key, order.down, about)}` : ''
  const columns = asked.columns.flatMap(name => world.fields.get(name) ?? [])
  const values = columns.length ? factsSql({ ...about, fields: new Map(columns.map(column => [column.key, column])) }) : `'{}'::jsonb`
  const direction = order.down ? 'desc' : 'asc'
  const nulls = key.always ? '' : ' nulls last'
  // Who stands on the page is found first; what is shown of them is read for them alone.
  const { rows } = await db().query<ProspectRow & { values: Record<string, unknown>, promises: Omit<TouchPromise, 'addedAt'>[], sorted: string | number | null }>(`with page as materialized (
      select p.id, ${key.sql} as sorted from ${FILTER_FROM} where ${about.where}${about.showsRemoved ? '' : IN_SIGHT}${page} order by ${key.sql} ${direction}${nulls}, p.id ${direction} limit ${asked.limit + 1})
    select ${ROW}, ${values} as values, ${promises ? promisesSql(promising, about) : `'[]'::json`} as promises, ${key.type === 'timestamptz' ? 'ms(page.sorted)' : 'page.sorted'} as sorted
    from page, ${FILTER_FROM} ${ROW_JOINS} where p.id = page.id order by page.sorted ${direction}${nulls}, p.id ${direction}`, about.values)
  const people = rows.slice(0, asked.limit)
  const last = people.at(-1)
  const next: Cursor | null = rows.length > asked.limit && last ? { value: last.sorted, id: last.id } : null
  return { people: people.map(({ sorted: _, promises: all, ...row }) => ({ ...row, promise: promiseTo(row.createdAt, all, world.now) })), next: next && Buffer.from(JSON.stringify(next)).toString('base64url') }
}

function promiseTo(addedAt: number, promises: readonly Omit<TouchPromise, 'addedAt'>[], now: number) {
  const strict = strictest(promises.map(one => ({ ...one, addedAt })))
  return strict && { listId: strict.listId, everyDays: strict.everyDays, lastAt: strict.lastAt, dueAt: dueAtOf(strict), standing: standingOf(strict, now) }
}

function readCursor(text: string): Cursor {
  try {
    const { value, id } = JSON.parse(Buffer.from(text, 'base64url').toString()) as Cursor
    if (/^[0-9a-f-]{36}$/.test(id) && (value === null || ['string', 'number', 'boolean'].includes(typeof value))) return { value, id }
  }
  catch {
    // Told below.
  }
  throw new Refusal('invalid', 'This is no place to go on from', [{ field: 'after', message: 'This is no place to go on from' }])
}

function pastCursor({ value, id }: Cursor, { sql, type, always }: Key, down: boolean, { parameter }: PeopleQuestion): string {
  const than = down ? '<' : '>'
  const own = `${parameter(id)}::uuid`
  if (value === null) return `(${sql} is null and p.id ${than} ${own})`
  const at = type === 'timestamptz' ? `from_ms(${parameter(value)}::bigint)` : `${parameter(value)}::${type}`
  const past = `(${sql}, p.id) ${than} (${at}, ${own})`
  return always ? past : `(${sql} is null or ${past})`
}

/** What people are put in order by; `always` where everybody has it. */
interface Key { sql: string, type: string, always: boolean }

function keyOf(name: string, promises: PromisingList | undefined, about: PeopleQuestion): Key | null {
  if (name === 'promise') return promises ? { sql: countedFrom(promises.kinds), type: 'timestamptz', always: true } : null
  const field = about.fields.get(name)
  const order = field && orderSql(field, about)
  return order ? { ...order, always: name === 'createdAt' } : null
}

/** The ids of those whom a filter finds, among the people the viewer may see. */
export async function idsOf(viewer: Viewer, filter: Filter | string | undefined): Promise<{ ids: Id[], filter: Filter }> {
  const world = await filterWorld(viewer)
  const about = await question(viewer, { filter: filter ?? EVERYONE }, world)
  const { rows } = await db().query<{ id: Id }>(`select p.id from ${FILTER_FROM} where ${about.where}${about.showsRemoved ? '' : IN_SIGHT}`, about.values)
  return { ids: rows.map(row => row.id), filter: about.filter }
}
