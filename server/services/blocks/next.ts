import { whyNotInBlock, type BlockRules } from '#core/blocks/whoFits'
import { isCallable } from '#core/calendar/callingHours'
import type { BlockSort, CallPurpose } from '#core/enumerations'
import type { Playbook } from '#core/engine/state/playbook'
import type { Id, Instant } from '#core/instant'
import { db, type Db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import type { Viewer } from '../access/viewer'
import { HOLDS, readCandidates, type BlockPerson, type CandidateRow } from './people'

/** How many a caller has at once: the one in hand and those who are made ready. */
const AHEAD = 3
/** How many are looked at together for whom to call next. */
const SET = 60
/** A block as it is worked. */
export interface WorkedBlock {
  id: Id
  name: string
  purpose: CallPurpose
  sort: BlockSort
  pass: number
  phoneKinds: BlockRules['phoneKinds']
  phoneStatuses: BlockRules['phoneStatuses']
  phoneTags: string[]
  closed: boolean
  /** How many lines are dialed for each caller at most. */
  lines: number
  now: Instant
  version: number
}

/** Reads a block that is worked; it must be there. */
export async function readWorked(blockId: Id, client: Db = db()): Promise<WorkedBlock> {
  const row = await firstRow(
    client.query<WorkedBlock>({
      name: 'worked-block',
      text: sql`
        select
          b.id, b.name, b.purpose, b.sort, b.pass, b.phone_kinds as "phoneKinds",
          b.phone_statuses as "phoneStatuses", b.phone_tags as "phoneTags", b.closed_at is not null as closed,
          b.lines,
          ms(world_now()) as now, t.playbook_version as version
        from call_blocks b
          cross join team t
        where b.id = $1
      `,
      values: [blockId],
    }),
  )
  return row!
}

/** What a block asks of people when they are called; who has been tried before is a matter of when it is made. */
export const rulesOf = ({ purpose, phoneKinds, phoneStatuses, phoneTags }: WorkedBlock): BlockRules => ({
  phoneKinds,
  phoneStatuses,
  phoneTags,
  attempts: null,
  cold: purpose === 'first_contact',
})

/** Takes those of `ids` whom nobody has, in their order, up to `count`; gives whom it got. */
async function take(client: Db, userId: Id, blockId: Id, ids: readonly Id[], count: number): Promise<Id[]> {
  const { rows } = await client.query<{ id: Id }>(
    sql`
      -- Materialized: an update that read it again would take more than it is to have.
      with free as materialized (
        select q.prospect_id
        from call_block_people q
        where q.block_id = $1
          and q.prospect_id = any($3::uuid[])
          and q.removed_at is null
          and q.skipped_at is null
          and q.export_id is null
          and (q.taken_by is null or q.taken_by = $2 or q.taken_at < now() - ${HOLDS})
        order by array_position($3::uuid[], q.prospect_id)
        limit $4
        for update skip locked
      )
      update call_block_people b
      set taken_by = $2, taken_at = now()
      from free
      where b.block_id = $1 and b.prospect_id = free.prospect_id
      returning b.prospect_id as id
    `,
    [blockId, userId, ids, count],
  )
  const got = new Set(rows.map(({ id }) => id))
  return ids.filter((id) => got.has(id))
}

/** Writes down why people are not called after all. */
export async function leaveOut(client: Db, blockId: Id, reasons: ReadonlyMap<Id, string>): Promise<void> {
  if (!reasons.size) return
  await client.query(
    sql`
      update call_block_people b
      set skipped_at = world_now(), skipped_why = r.why, taken_by = null, taken_at = null
      from unnest($2::uuid[], $3::text[]) as r(id, why)
      where b.block_id = $1 and b.prospect_id = r.id and b.skipped_at is null
    `,
    [blockId, [...reasons.keys()], [...reasons.values()]],
  )
}

/** Those who were taken, those who cannot be called yet, and how many were left out because they no longer fit. */
export interface Taken {
  mine: CandidateRow[]
  later: CandidateRow[]
  skipped: number
}

/** Takes up to `count` of the people given, in their order, for a user: those who may be called now and nobody has. */
export async function takeOf(
  client: Db,
  userId: Id,
  block: WorkedBlock,
  open: readonly BlockPerson[],
  count: number,
  book: Playbook,
): Promise<Taken> {
  const rules = rulesOf(block)
  const mine: CandidateRow[] = []
  const later: CandidateRow[] = []
  let skipped = 0
  for (let from = 0; from < open.length && mine.length < count; from += SET) {
    const set = open.slice(from, from + SET).map(({ prospectId }) => prospectId)
    const looked = await readCandidates(client, set, block.id)
    const reasons = new Map<Id, string>()
    for (const one of looked) {
      const why = whyNotInBlock(one, rules)
      if (why !== null) reasons.set(one.id, why)
    }
    await leaveOut(client, block.id, reasons)
    skipped += reasons.size
    const fit = looked.filter(({ id }) => !reasons.has(id))
    const callable = fit.filter((one) => isCallable(block.now, book.callHours, one, book.holidays))
    later.push(...fit.filter((one) => !callable.includes(one)))
    const ids = callable.map(({ id }) => id)
    const got = await take(client, userId, block.id, ids, count - mine.length)
    mine.push(...callable.filter(({ id }) => got.includes(id)))
  }
  return { mine, later, skipped }
}

/** Whom to call before the others: who answered while no caller was free, then who is most likely to answer. */
export function inOrder(people: readonly BlockPerson[], chances: ReadonlyMap<Id, number>): BlockPerson[] {
  const chance = (one: BlockPerson) => chances.get(one.prospectId) ?? 0
  const answered = (one: BlockPerson) => one.answeredAt ?? Infinity
  return [...people].sort((a, b) => {
    if (a.answeredAt !== b.answeredAt) return answered(a) - answered(b)
    return chance(b) - chance(a)
  })
}

/** Whom the caller has: those taken before, as far as they may still be called, and more until there are enough. */
export async function nextFor(
  viewer: Viewer,
  block: WorkedBlock,
  people: readonly BlockPerson[],
  chances: ReadonlyMap<Id, number>,
  book: Playbook,
  first: Id | null,
): Promise<Taken> {
  const isMine = (one: BlockPerson) => one.takenBy === viewer.id
  const rank = (one: BlockPerson): number => {
    if (one.prospectId === first) return 0
    return isMine(one) ? 1 : 2
  }
  const isFree = (one: BlockPerson) => one.dialer === null && (one.takenBy === null || isMine(one) || one.stale)
  const open = people.filter((one) => one.bead.open && isFree(one))
  const ordered = inOrder(open, chances).sort((a, b) => rank(a) - rank(b))
  const taken = await takeOf(db(), viewer.id, block, ordered, AHEAD, book)
  await release(viewer, block.id, taken.mine)
  return taken
}

/** Gives back whom the caller had and is not among those they have now. */
async function release(viewer: Viewer, blockId: Id, those: readonly { id: Id }[]): Promise<void> {
  await db().query(
    sql`
      update call_block_people
      set taken_by = null, taken_at = null
      where block_id = $1 and taken_by = $2 and prospect_id <> all($3::uuid[])
    `,
    [blockId, viewer.id, those.map(({ id }) => id)],
  )
}
