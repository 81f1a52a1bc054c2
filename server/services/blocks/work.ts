import { blockInWords, countBeads } from '#core/blocks/beads'
import { phoneFor } from '#core/blocks/whoFits'
import { emptyCounts } from '#core/queue/groupNames'
import { chanceInWords, historyInWords } from '#core/queue/why'
import type { Id } from '#core/instant'
import type { QueueItem } from '#shared/api/desk/queue'
import { db, transaction, type Db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { logEvent, logTexts } from '../../engine/eventLog'
import { playbook } from '../../engine/playbook'
import { Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { opening } from '../lists/queueHours'
import { mustCallIn } from './access'
import { SAY_CHANGED, sayBlockChanged } from './changes'
import { chancesIn } from './chances'
import { nextFor, readWorked, type Taken } from './next'
import { CALLS_OF_BLOCK, HOLDS, peopleOf, readCandidates, type CandidateRow } from './people'

/** How long a sitting lasts without a sign of life. */
const SILENT = `interval '2 minutes'`

/** Notes that the caller is at work in the block, or has paused. Work in another block ends. */
async function noteSitting(viewer: Viewer, blockId: Id, working: boolean): Promise<void> {
  await db().query(
    sql`
      with ended as (
        update call_block_sittings
        set ended_at = case when last_seen_at < now() - ${SILENT} then last_seen_at else now() end
        where user_id = $1
          and ended_at is null
          and (block_id <> $2 or not $3 or last_seen_at < now() - ${SILENT})
        returning id
      )
      update call_block_sittings
      set last_seen_at = now()
      where user_id = $1 and block_id = $2 and ended_at is null and id not in (select id from ended)
    `,
    [viewer.id, blockId, working],
  )
  if (!working) return
  await db().query(
    sql`
      insert into call_block_sittings (block_id, user_id)
      select $2, $1
      on conflict (user_id) where ended_at is null do nothing
    `,
    [viewer.id, blockId],
  )
}

/** How long someone has worked in a block, in seconds, as an expression on its sittings `s`. */
export const SECONDS_WORKED = sql`
  coalesce(
    sum(
      extract(
        epoch from coalesce(s.ended_at, case when s.last_seen_at > now() - ${SILENT} then now() else s.last_seen_at end)
          - s.started_at
      )
    ), 0
  )::int
`
/** Whether a caller is at work now, on their sittings `s`. */
export const WORKING_NOW = sql`
  coalesce(bool_or(s.ended_at is null and s.last_seen_at > now() - ${SILENT}), false)
`

/** Why someone is next, in words: how likely they are to answer, where that is the order; what was tried so far. */
function whyNext({ reached, attempts }: CandidateRow, chance: number | undefined): string {
  const history = historyInWords({ everReached: reached, attempts })
  return chance === undefined ? history : `${chanceInWords(chance)}, ${history}`
}

const LATER_SHOWN = 40

/**
 * The block as work for the Desk: who is next for the caller, whom nobody else gets meanwhile, how far the block is,
 * and the caller's own time and calls. Paused, nobody new is taken and the time stands still; those who were taken stay
 * so for a while, and are first when the work goes on, on any machine.
 */
export async function workBlock(viewer: Viewer, blockId: Id, { paused, first }: { paused: boolean; first: Id | null }) {
  await mustCallIn(viewer, blockId)
  const block = await readWorked(blockId)
  await noteSitting(viewer, blockId, !paused && !block.closed)
  const [book, before] = await Promise.all([
    playbook(db(), block.version),
    peopleOf(db(), blockId, block.sort, block.pass),
  ])
  const rest = block.closed || paused
  const line = rest ? null : await readLine(viewer, blockId)
  const chances = rest || line ? new Map<Id, number>() : await chancesIn(block, before)
  const { mine, later, skipped } = await inHandOf()
  const people = skipped ? await peopleOf(db(), blockId, block.sort, block.pass) : before
  const own = await ownAccount(viewer, blockId)
  async function inHandOf(): Promise<Taken> {
    if (rest) return { mine: [], later: [], skipped: 0 }
    if (!line) return nextFor(viewer, block, before, chances, book, first)
    // While lines are dialed, the caller has whom they were put through to, and nobody else.
    const ids = line.prospectId === null ? [] : [line.prospectId]
    return { mine: await readCandidates(db(), ids, blockId), later: [], skipped: 0 }
  }
  const byId = new Map(people.map((one) => [one.prospectId, one]))
  const item = (one: CandidateRow): QueueItem => ({
    taskId: one.taskId,
    prospectId: one.id,
    name: one.name,
    company: byId.get(one.id)?.company ?? null,
    kind: 'call',
    dueAt: block.now,
    timeZone: one.timeZone,
    slope: null,
    priority: null,
    phoneId: phoneFor(one.phones, block)?.id ?? null,
    why: whyNext(one, chances.get(one.id)),
    group: 'due',
    opensAt: null,
    waitsFor: null,
  })
  const waiting = later.slice(0, LATER_SHOWN).map((one): QueueItem => ({
    ...item(one),
    group: 'later',
    ...opening({ ...one, kind: 'call', dueAt: block.now }, block.now, book),
  }))
  const counts = countBeads(people.map(({ bead }) => bead))
  return {
    list: null,
    block: {
      id: block.id,
      name: block.name,
      inWords: blockInWords(counts),
      open: counts.open,
      notReached: counts.tried + counts.message,
      pass: block.pass,
      closed: block.closed,
      paused: rest,
      lines: block.lines,
      ...own,
    },
    items: [...mine.map(item), ...waiting],
    counts: { ...emptyCounts(), due: mine.length, later: later.length },
    priorities: [],
    opensNext: null,
    now: block.now,
  }
}

/** Whom the caller was put through to while lines are dialed for them; null where none are. */
async function readLine(viewer: Viewer, blockId: Id): Promise<{ prospectId: Id | null } | null> {
  const row = await firstRow(
    db().query<{ prospectId: Id | null }>({
      name: 'line-of-caller',
      text: sql`
        select c.prospect_id as "prospectId"
        from call_block_sittings s
          left join calls c on c.id = s.call_id and c.logged_by is null
        where s.user_id = $1 and s.block_id = $2 and s.ended_at is null and s.lines_on
      `,
      values: [viewer.id, blockId],
    }),
  )
  return row ?? null
}

interface OwnAccount {
  seconds: number
  calls: number
  conversations: number
  meetings: number
}

async function ownAccount(viewer: Viewer, blockId: Id) {
  const row = await firstRow(
    db().query<OwnAccount>({
      name: 'own-account-in-block',
      text: sql`
        with ${CALLS_OF_BLOCK}
        select
          (
            select ${SECONDS_WORKED}
            from call_block_sittings s
            where s.block_id = $1::uuid and s.user_id = $2
          ) as seconds,
          count(*)::int as calls, count(*) filter (where reached)::int as conversations,
          count(*) filter (where meeting)::int as meetings
        from calls
        where actor_id = $2
      `,
      values: [blockId, viewer.id],
    }),
  )
  const { seconds, ...mine } = row!
  return { seconds, mine }
}

/** Skips someone who is in hand with the reason, or puts them back. Throws where another caller has them. */
export async function skipInBlock(viewer: Viewer, blockId: Id, prospectId: Id, why: string | null): Promise<void> {
  await mustCallIn(viewer, blockId)
  await transaction(async (client) => {
    await mustBeFree(viewer, blockId, prospectId, client)
    await client.query(
      sql`
        update call_block_people
        set
          skipped_at = case when $3::text is null then null else world_now() end, skipped_why = $3,
          skipped_by = case when $3::text is null then null else $4::uuid end, taken_by = null, taken_at = null
        where block_id = $1 and prospect_id = $2
      `,
      [blockId, prospectId, why, viewer.id],
    )
    const kind = why === null ? ('blockPutBack' as const) : ('blockSkipped' as const)
    const eventId = await logEvent(client, { kind, prospectId, actorId: viewer.id, payload: { blockId } })
    if (why !== null) await logTexts(client, eventId, prospectId, { reason: why })
    await sayBlockChanged(blockId, client)
  })
}

/** Throws where someone is not in the block, or another caller has them in hand. */
export async function mustBeFree(viewer: Viewer, blockId: Id, prospectId: Id, client: Db): Promise<void> {
  const row = await firstRow(
    client.query<{ taker: string | null }>(
      sql`
        select case when b.taken_by <> $3 and b.taken_at >= now() - ${HOLDS} then u.name end as taker
        from call_block_people b
          left join users u on u.id = b.taken_by
        where b.block_id = $1 and b.prospect_id = $2 and b.removed_at is null
        for update of b
      `,
      [blockId, prospectId, viewer.id],
    ),
  )
  if (!row) throw notInBlock()
  if (row.taker) throw new Refusal('conflict', `${row.taker} has this person in hand`)
}

/** Throws where the viewer does not call in a block, or someone is not in it; whom one calls there one may see. */
export async function mustCall(viewer: Viewer, blockId: Id, prospectId: Id, client: Db): Promise<void> {
  await mustCallIn(viewer, blockId, client)
  await mustBeInBlock(blockId, prospectId, client)
}

/** Whether someone is in a block, and has not been taken out. */
export async function isInBlock(blockId: Id, prospectId: Id, client: Db = db()): Promise<boolean> {
  const { rowCount } = await client.query(
    sql`select from call_block_people where block_id = $1 and prospect_id = $2 and removed_at is null`,
    [blockId, prospectId],
  )
  return rowCount === 1
}

/** Throws where someone is not in a block: whose call there is logged from what another dialer says. */
export async function mustBeInBlock(blockId: Id, prospectId: Id, client: Db): Promise<void> {
  if (!(await isInBlock(blockId, prospectId, client))) throw notInBlock()
}
const notInBlock = () => new Refusal('conflict', 'This person is no longer in the call block')

/** Notes that someone was called in a block, with the outcome. */
export async function markCalled(client: Db, blockId: Id, prospectId: Id): Promise<void> {
  await client.query(
    sql`
      with cleared as (
        update call_block_people
        set
          taken_by = null, taken_at = null, answered_at = null, export_id = null, skipped_at = null,
          skipped_why = null, skipped_by = null
        where block_id = $1::uuid and prospect_id = $2
      )
      ${SAY_CHANGED}
    `,
    [blockId, prospectId],
  )
}
