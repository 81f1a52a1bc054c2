import type { Id } from '#core/instant'
import { DEFAULT_ENTRY } from '#core/cadence/entry'
import { DEFAULT_EXITS } from '#core/cadence/exits'
import type { TouchInterval } from '#core/queue/touchGoal'
import { newId } from '#shared/newId'
import { db, transaction } from '../../db/pool'
import { STARTER_CADENCES } from './starterCadences'
import { tagNamed } from './starterCadence'
import { withNewIds, type UnsavedStep } from '../cadences/stepDraft'
import { addCadence } from '../cadences/editCadence'
import { addList } from '../lists/lists'
import type { Viewer } from '../access/viewer'
import { sql } from '../../db/sql'

interface StarterList {
  key: string
  name: string
  sentence: string
  touchEvery?: TouchInterval
  touchKinds?: string[]
  sort?: { field: string; down: boolean }
}

/** Those one may still hope for. */
const LIVING = 'do not call is no and stage is none of "Not a fit", "Stopped", "Customer"'
const days = (amount: number): TouchInterval => ({ amount, unit: 'days' })

/** Lists that most teams want, in the order in which they are worked (common practice, no published source). */
export const STARTER_LISTS: readonly StarterList[] = [
  {
    key: 'asked',
    name: 'Asked us something',
    sentence: 'last reply is in the last 7 days and open deals is 0',
    sort: { field: 'lastReply', down: true },
  },
  { key: 'new', name: 'New, not yet tried', sentence: 'new is yes and last call is more than 2 days ago or never' },
  {
    key: 'hot',
    name: 'Hot, keep close',
    sentence: `rating is hot and ${LIVING}`,
    touchEvery: days(10),
    touchKinds: ['call', 'text', 'meeting'],
  },
  {
    key: 'warm',
    name: 'Warm nurture',
    sentence: `rating is warm and ${LIVING}`,
    touchEvery: days(25),
    touchKinds: ['call', 'text', 'meeting'],
  },
  {
    key: 'cold',
    name: 'Cold nurture',
    sentence: `rating is cold and ${LIVING}`,
    touchEvery: days(45),
    touchKinds: ['call', 'text', 'meeting'],
  },
  {
    key: 'quiet',
    name: 'Gone quiet',
    sentence: 'last reply is ever and last touch is more than 10 days ago',
    sort: { field: 'lastTouch', down: false },
  },
  {
    key: 'unreached',
    name: 'Never reached',
    sentence: 'attempts is at least 2 and never reached is yes and cadences now is not set',
    sort: { field: 'lastTouch', down: false },
  },
  {
    key: 'customers',
    name: 'Best customers',
    sentence: 'customer is yes and won deals is at least 1',
    touchEvery: { amount: 6, unit: 'months' },
  },
  {
    key: 'later',
    name: 'Said not now',
    sentence: 'last outcome is "Not interested" and last call is in the last 30 days',
  },
]

async function namesOf(table: 'lists' | 'cadences'): Promise<Set<string>> {
  const { rows } = await db().query<{ name: string }>(
    table === 'lists'
      ? sql`select lower(name) as name from lists`
      : sql`select lower(name) as name from cadences where status <> 'archived'`,
  )
  return new Set(rows.map((row) => row.name))
}

/** What comes with Uphill, and what of it is there already by name. */
export async function listStarters() {
  const [lists, cadences] = await Promise.all([namesOf('lists'), namesOf('cadences')])
  return {
    lists: STARTER_LISTS.map(({ key, name, sentence }) => ({
      key,
      name,
      sentence,
      taken: lists.has(name.toLowerCase()),
    })),
    cadences: STARTER_CADENCES.map(({ key, name, about, steps }) => ({
      key,
      name,
      about,
      steps: steps.map((one) => one.name),
      taken: cadences.has(name.toLowerCase()),
    })),
  }
}

/** Adds starter lists, for everyone. */
export async function takeLists(viewer: Viewer, keys: readonly string[]): Promise<number> {
  const there = await namesOf('lists')
  const wanted = STARTER_LISTS.filter((one) => keys.includes(one.key) && !there.has(one.name.toLowerCase()))
  for (const { name, sentence, touchEvery, touchKinds, sort } of wanted) {
    await addList(viewer, {
      name,
      kind: 'live',
      filter: sentence,
      visibility: 'everyone',
      ...(sort && { sort }),
      ...(touchEvery && {
        touchEvery,
        columns: ['companyName', 'thread', 'owner'].map((key) => ({ key, width: null })),
      }),
      ...(touchKinds && { touchKinds }),
    })
  }
  return wanted.length
}

/** Adds starter lists and cadences; cadences as drafts. What is there by name is left as it is. */
export function takeStarters(
  viewer: Viewer,
  asked: { lists: readonly string[]; cadences: readonly string[] },
): Promise<{ lists: number; cadences: { id: string; name: string }[] }> {
  // One after the other, so that asked twice at once nothing is there twice.
  return transaction(async (client) => {
    await client.query(sql`select pg_advisory_xact_lock(hashtext('starters'))`)
    return take(viewer, asked)
  })
}

async function take(
  viewer: Viewer,
  asked: { lists: readonly string[]; cadences: readonly string[] },
): Promise<{ lists: number; cadences: { id: string; name: string }[] }> {
  const lists = await takeLists(viewer, asked.lists)
  const there = await namesOf('cadences')
  const cadences: { id: string; name: string }[] = []
  for (const { key, steps, tags = [], about, ...cadence } of STARTER_CADENCES) {
    if (!asked.cadences.includes(key) || there.has(cadence.name.toLowerCase())) continue
    const ids = await tagIds(tags)
    const { id } = await addCadence(viewer, {
      emailType: null,
      ...cadence,
      exits: { ...DEFAULT_EXITS, ...cadence.exits },
      entry: DEFAULT_ENTRY,
      description: about,
      shared: true,
      afterLast: [],
      windowId: null,
      steps: withNewIds(withTags(steps, ids)),
    })
    cadences.push({ id, name: cadence.name })
  }
  return { lists, cadences }
}

/** The ids of tags by their names; those that are not there are made. */
async function tagIds(names: readonly string[]): Promise<ReadonlyMap<string, Id>> {
  if (!names.length) return new Map()
  const made = names.map(() => newId())
  await db().query(
    sql`
      insert into tags (id, name, created_at)
      select id, name, world_now()
      from unnest($1::uuid[], $2::text[]) as n(id, name)
      on conflict do nothing
    `,
    [made, names],
  )
  const { rows } = await db().query<{ id: Id; name: string }>(
    sql`
      select t.id, n.name
      from unnest($1::text[]) as n(name)
        join tags t on lower(t.name) = lower(n.name)
    `,
    [names],
  )
  return new Map(rows.map(({ id, name }) => [name, id]))
}

/** The steps with the ids of tags in the filters of their ways. */
function withTags(steps: readonly UnsavedStep[], ids: ReadonlyMap<string, Id>): readonly UnsavedStep[] {
  const named = [...ids].map(([name, id]) => [JSON.stringify(tagNamed(name)), JSON.stringify(id)] as const)
  const text = named.reduce((json, [name, id]) => json.replaceAll(name, id), JSON.stringify(steps))
  return JSON.parse(text) as UnsavedStep[]
}
