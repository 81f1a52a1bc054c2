import { manages } from '#core/roles'
import type { Field } from '#core/filter/fields'
import { conditionsOf, EVERYONE, normalize, type Filter } from '#core/filter/filter'
import { problemsOf } from '#core/filter/problems'
import { parse, print, SentenceError } from '#core/filter/sentence'
import { CircularLists, filterFrom, toWhere } from '#core/filter/sql'
import { emptyParts, type ListMeaning, type SqlParts, type Translation } from '#core/filter/sqlTranslation'
import type { Id, Instant } from '#core/instant'
import type { ProspectRow } from '#shared/api/prospects'
import { readFilterWorld } from '../../db/filterWorld'
import { db, type Db } from '../../db/pool'
import { shareReads } from '../../db/shareReads'
import { limitedTo, visible } from '../access/access'
import { Refusal } from '../access/errors'
import { mayReadList } from './listAccess'
import type { Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

/** What filters are understood in: the fields and values there are, what lists mean, the moment and the team's zone. */
export interface FilterWorld {
  fields: ReadonlyMap<string, Field>
  lists: ReadonlyMap<Id, ListMeaning>
  now: Instant
  timeZone: string
  /** The team's country. */
  country: string
  stages: readonly ProspectRow['stage'][]
  users: readonly { id: Id; name: string }[]
}

/**
 * Reads what filters are understood in. Lists that the viewer may not see are no values to choose from; inside a list
 * they keep their meaning, for a list shows the same people to every viewer.
 */
export function filterWorld(viewer: Viewer, client?: Db): Promise<FilterWorld> {
  return client
    ? readWorld(viewer.id, manages(viewer), client)
    : sharedWorld(`${!manages(viewer) ? '' : '*'}${viewer.id}`)
}

/** A screen of lists asks for all their counts at once: they share what is read here. */
const sharedWorld = shareReads((key) => readWorld(key.replace('*', ''), key.startsWith('*'), db()))

async function readWorld(viewerId: Id, seesAll: boolean, client: Db): Promise<FilterWorld> {
  const { country, stages, users, ...world } = await readFilterWorld(client, {
    lists: mayReadList('l', '$1', '$2'),
    imports: '$2 or user_id = $1',
    values: [viewerId, seesAll],
  })
  return { ...world, country, users, stages: stages as ProspectRow['stage'][] }
}

/** Reads a filter given as such or as a sentence. Throws at the field `filter` where it cannot be read or asked. */
export function readFilter(given: Filter | string | undefined, world: FilterWorld): { all: Filter[] } {
  try {
    const filter = typeof given === 'string' ? parse(given, world.fields.values()) : (given ?? EVERYONE)
    const problems = problemsOf(filter, world.fields)
    if (problems.length) {
      throw new Refusal(
        'invalid',
        problems.join('. '),
        problems.map((message) => ({ field: 'filter', message })),
      )
    }
    return normalize(filter)
  } catch (error) {
    if (!(error instanceof SentenceError)) throw error
    throw new Refusal('invalid', error.message, [
      { field: 'filter', message: `${error.message} (at character ${error.at + 1})` },
    ])
  }
}

/** Why a list's filter cannot be asked any more. It may speak of lists that the viewer does not see. */
export function problemsOfList(filter: Filter | null, { fields, lists }: FilterWorld): string[] {
  const inLists = fields.get('lists')!
  const all = new Map(fields).set('lists', { ...inLists, choices: [...lists.keys()].map((id) => ({ id, name: id })) })
  return filter ? problemsOf(filter, all) : []
}

/** A filter as a sentence. */
export function inWords(filter: Filter, world: FilterWorld): string {
  return print(filter, world.fields)
}

/** A question to the database about people: conditions with their values, over FILTER_FROM. */
export interface PeopleQuestion extends Translation {
  /** Who is visible to the viewer and fits. */
  where: string
  /** Whether removed people are among them, because the filter speaks of that. */
  showsRemoved: boolean
}

/**
 * Translates a filter for a viewer: the people among those they may see; `of` companies, those where nobody is too.
 * Throws where lists go round in a circle.
 */
export function ask(
  viewer: Viewer,
  filter: Filter,
  world: FilterWorld,
  more: (parts: SqlParts) => string[] = () => [],
  of: 'people' | 'companies' = 'people',
): PeopleQuestion {
  const translation = { ...world, ...emptyParts([limitedTo(viewer)]), me: viewer.id }
  const showsRemoved = conditionsOf(filter).some((condition) => condition.field === 'status')
  try {
    const conditions = [
      of === 'people' ? visible('p', '$1') : `(p.id is null or ${visible('p', '$1')})`,
      toWhere(filter, translation),
      ...more(translation),
    ]
    return { ...translation, where: conditions.join(' and '), showsRemoved }
  } catch (error) {
    if (!(error instanceof CircularLists)) throw error
    const names = error.through.map(
      (id) => world.fields.get('lists')?.choices?.find((list) => list.id === id)?.name ?? 'a list',
    )
    throw new Refusal('invalid', `These lists refer to each other: ${names.join(', ')}`, [
      { field: 'filter', message: `These lists refer to each other: ${names.join(', ')}` },
    ])
  }
}

/** Who is not archived. */
export const NOT_ARCHIVED = `p.status <> 'archived'`

/** Leaves out who is removed, unless the filter speaks of that. */
export const IN_SIGHT = ` and ${NOT_ARCHIVED}`

/** Up to how many people are counted one by one. */
const EXACT = 10_000
/** How many people an estimate looks at. */
const SAMPLE = 10_000

/** A share of the table's pages, as a clause behind the table's name, and how many people there are in all. */
export interface PeopleSample {
  clause: string
  people: number
  share: number
}

/**
 * Reads a share of the table's pages instead of all of them, and how many people there are in all. Null for a table
 * that is small.
 */
export async function sampleOfPeople(): Promise<PeopleSample | null> {
  const size = await firstRow(
    db().query<{ people: number }>(
      sql`
        select greatest(reltuples, 1)::bigint as people
        from pg_class
        where oid = 'prospects'::regclass
      `,
    ),
  )
  const share = SAMPLE / size!.people
  // A table whose size is not known yet, or is small, is read whole.
  return share >= 1
    ? null
    : { clause: `tablesample system (${100 * share}) repeatable (7)`, people: size!.people, share }
}

/** An estimate this far beyond what is counted one by one is believed at once. */
const SURELY_MORE = 1.5 * EXACT

/**
 * How many people there are: exact to 10,000, beyond that estimated from a sample of the table's pages. The sample is
 * looked at first, so that many are not counted one by one only to find that they are too many. Removed people are
 * counted beside.
 */
export async function countPeople(
  question: PeopleQuestion,
): Promise<{ count: number; exact: boolean; removed: number }> {
  const removed = question.showsRemoved ? 'false' : `p.status = 'archived'`
  const counted = async (limit: number | null) =>
    (
      await db().query<{ count: number; removed: number }>(
        sql`
          select count(*) filter (where not archived) as count, count(*) filter (where archived) as removed
          from (
            select ${removed} as archived
            from ${filterFrom(question)}
            where ${question.where} ${limit ? `limit ${limit}` : ''}
          ) found
        `,
        question.values,
      )
    ).rows[0]!
  const sample = await sampleOfPeople()
  if (!sample) return { ...(await counted(null)), exact: true }
  const seen = await firstRow(
    db().query<{ count: number; removed: number; seen: number }>(
      sql`
        select
          count(*) filter (where fits and not archived) as count, count(*) filter (where fits and archived) as removed,
          count(*) as seen
        from (
          select (${question.where}) as fits, ${removed} as archived
          from ${filterFrom(question, sample.clause)}
        ) sample
      `,
      question.values,
    ),
  )
  // What is known of the table's size may be old: then the share of its pages is what can be relied on.
  const share =
    Math.abs(seen!.seen / sample.people / sample.share - 1) < 0.2 ? seen!.seen / sample.people : sample.share
  const whole = (count: number) => Math.round(count / share)
  const estimate = { count: whole(seen!.count), removed: whole(seen!.removed), exact: false }
  if (estimate.count > SURELY_MORE) return estimate
  const first = await counted(EXACT + 1)
  return first.count + first.removed <= EXACT
    ? { ...first, exact: true }
    : { ...estimate, count: Math.max(estimate.count, EXACT + 1) }
}
