import { phoneFor } from '#core/blocks/whoFits'
import { CONNECT_WITHIN_MS, callsToGiveUp } from '#core/dialing/pacing'
import type { LineStatus } from '#core/enumerations'
import type { Id, Instant } from '#core/instant'
import { newId } from '#shared/newId'
import { linePool } from '../../channels/phone/dialer'
import { db, transaction, type Db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { load } from '../../engine/load'
import { playbook } from '../../engine/playbook'
import { Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { mustCallIn } from '../blocks/access'
import { chancesIn } from '../blocks/chances'
import { sayBlockChanged } from '../blocks/changes'
import { inOrder, leaveOut, readWorked, takeOf } from '../blocks/next'
import { peopleOf } from '../blocks/people'
import { recordsCalls, whetherCallable } from '../desk/calls'
import { countCampaign, howMany, linesNow } from './campaign'
import { getLineOutcomes, outcomesFault } from './lineOutcomes'

/** Throws where several lines cannot be dialed for the viewer in this block, with what to do. */
async function mustDialLines(viewer: Viewer, blockId: Id): Promise<void> {
  const block = await readWorked(blockId)
  const refuse = (why: string) => new Refusal('refused', why)
  if (block.lines === 1) throw refuse('This call block dials one line at a time')
  if (!linePool()) throw refuse('No dialer is connected that can dial several lines')
  if (viewer.callsWith === 'own_phone') {
    throw refuse('Several lines need the dialer, and you call on your own phone: change it under Your account')
  }
  const fault = outcomesFault(await getLineOutcomes())
  if (fault) throw refuse(fault)
}

/** Notes that the viewer waits for a call in the block, or that lines are no longer dialed for them. */
async function noteWaiting(viewer: Viewer, blockId: Id, on: boolean): Promise<void> {
  await db().query(
    sql`
      with kept as (
        select s.id, c.id as call_id
        from call_block_sittings s
          left join calls c on c.id = s.call_id and c.logged_by is null
            and exists (
              select
              from call_block_people p
              where p.block_id = s.block_id and p.prospect_id = c.prospect_id and p.removed_at is null
                and p.skipped_at is null
            )
        where s.user_id = $1 and s.block_id = $2 and s.ended_at is null
        for update of s
      )
      update call_block_sittings s
      set
        last_seen_at = now(), lines_on = $3, call_id = kept.call_id,
        waiting_since = case when $3 and kept.call_id is null then coalesce(s.waiting_since, now()) end
      from kept
      where s.id = kept.id
    `,
    [viewer.id, blockId, on],
  )
  // Whom they had made ready to be called one at a time is anyone's again.
  await db().query(
    sql`
      update call_block_people b
      set taken_by = null, taken_at = null
      where b.block_id = $2
        and b.taken_by = $1
        and $3
        and not exists (
          select
          from calls c
          where c.block_id = b.block_id and c.prospect_id = b.prospect_id and c.logged_by is null
            and c.line_status in ('dialing', 'ringing', 'connected', 'completed')
        )
    `,
    [viewer.id, blockId, on],
  )
}

interface ToDial {
  id: Id
  number: string
  message: string
  recorded: boolean
}

interface BlockLines {
  lines: number
  campaign: string
  message: string
}

/** How likely those of a block are to answer now, where it is called in that order. */
async function likely(blockId: Id): Promise<ReadonlyMap<Id, number>> {
  const block = await readWorked(blockId)
  return block.sort === 'likely' ? chancesIn(block, await peopleOf(db(), blockId, block.sort, block.pass)) : new Map()
}

/**
 * Chooses whom to call next for the callers who wait, as many as keep the campaign within what may be abandoned, and
 * writes the calls down before they are made. Of several who ask at once, one does it: the others find it locked.
 */
async function chooseCalls(viewer: Viewer, blockId: Id): Promise<ToDial[]> {
  const chances = await likely(blockId)
  return transaction(async (client) => {
    const row = await firstRow(
      client.query<BlockLines>(
        sql`
          select lines, campaign, call_back_message as message
          from call_blocks
          where id = $1 and closed_at is null
          for no key update skip locked
        `,
        [blockId],
      ),
    )
    if (!row) return []
    const count = howMany(await linesNow(blockId, client), row.lines, await countCampaign(row.campaign, client))
    if (count === 0) return []
    const block = await readWorked(blockId, client)
    const book = await playbook(client, block.version)
    const people = await peopleOf(client, blockId, block.sort, block.pass)
    const open = people.filter((one) => one.bead.open && one.dialer === null && (one.takenBy === null || one.stale))
    const { mine } = await takeOf(client, viewer.id, block, inOrder(open, chances), count, book)
    if (!mine.length) return []
    const { state } = await load(
      client,
      mine.map(({ id }) => id),
    )
    const reasons = new Map<Id, string>()
    const calls = mine.flatMap((one) => {
      const phoneId = phoneFor(one.phones, block)?.id ?? null
      const { phone, why } = whetherCallable({ state, prospectId: one.id, phoneId, book }, viewer)
      if (phone) return [{ id: newId(), prospectId: one.id, phone }]
      reasons.set(one.id, why)
      return []
    })
    await leaveOut(client, blockId, reasons)
    const recorded = await recordsCalls(client)
    await client.query(
      sql`
        insert into calls (
          id, user_id, prospect_id, phone_id, started_at, made_with, recording, block_id, campaign, line_status
        )
        select c.id, $1, c.prospect_id, c.phone_id, world_now(), 'dialer', $2, $3, $4, 'dialing'
        from unnest($5::uuid[], $6::uuid[], $7::uuid[]) as c(id, prospect_id, phone_id)
      `,
      [
        viewer.id,
        recorded ? 'on' : null,
        blockId,
        row.campaign,
        calls.map(({ id }) => id),
        calls.map(({ prospectId }) => prospectId),
        calls.map(({ phone }) => phone.id),
      ],
    )
    await sayBlockChanged(blockId, client)
    return calls.map(({ id, phone }) => ({ id, number: phone.number, message: row.message, recorded }))
  })
}

/** Starts the calls that were chosen. One that the exchange does not take is over, and its person is free again. */
async function startCalls(blockId: Id, calls: readonly ToDial[]): Promise<void> {
  const pool = linePool()
  await Promise.all(
    calls.map(async ({ id, number, message, recorded }) => {
      const screen = { id, number, isRecorded: recorded, withinMs: CONNECT_WITHIN_MS, otherwiseSay: message }
      const ref = (await pool?.dial(screen).catch(() => null)) ?? null
      await db().query(
        sql`
          update calls
          set
            line_ref = $2,
            line_status = case
              when $2::text is null then 'failed'
              when line_status = 'dialing' then 'ringing'
              else line_status
            end,
            ended_at = case when $2::text is null then world_now() else ended_at end
          where id = $1
        `,
        [id, ref],
      )
      if (ref === null) await freePerson(blockId, id)
    }),
  )
}

/** Gives back the person of a call, so that any caller may get them. */
export async function freePerson(blockId: Id, callId: Id, client: Db = db()): Promise<void> {
  await client.query(
    sql`
      update call_block_people b
      set taken_by = null, taken_at = null
      from calls c
      where c.id = $2 and b.block_id = $1 and b.prospect_id = c.prospect_id
    `,
    [blockId, callId],
  )
}

/** Hangs up calls for which nobody waits any more and whose phones rang as long as they must. */
async function giveUp(blockId: Id): Promise<void> {
  const { free, ringing } = await linesNow(blockId)
  if (free > 0 || ringing === 0) return
  const { rows } = await db().query<{ ref: string; startedAt: Instant }>(
    sql`
      select line_ref as ref, ms(started_at) as "startedAt"
      from calls
      where block_id = $1 and line_status = 'ringing' and line_ref is not null
    `,
    [blockId],
  )
  const clock = await firstRow(db().query<{ now: Instant }>(sql`select ms(world_now()) as now`))
  const pool = linePool()
  await Promise.all(callsToGiveUp(rows, free, clock!.now).map(({ ref }) => pool?.hangUp(ref)))
}

interface LineCall {
  id: Id
  prospectId: Id
  name: string
  company: string | null
  status: LineStatus
  /** When it began, and when it ended; null while it is under way. */
  startedAt: Instant
  endedAt: Instant | null
}

/** How many of the calls that are over are shown. */
const LAST_SHOWN = 8

/** What rings in a block for all its callers, and how the last calls ended. */
async function callsOfLines(blockId: Id): Promise<{ ringing: LineCall[]; last: LineCall[] }> {
  const { rows } = await db().query<LineCall>({
    name: 'calls-of-lines',
    text: sql`
      (
        select
          c.id, c.prospect_id as "prospectId", btrim(p.first_name || ' ' || p.last_name) as name, o.name as company,
          c.line_status as status, ms(c.started_at) as "startedAt", ms(c.ended_at) as "endedAt"
        from calls c
          join prospects p on p.id = c.prospect_id
          left join companies o on o.id = p.company_id
        where c.block_id = $1 and c.line_status in ('dialing', 'ringing')
        order by c.started_at, c.id
        limit 60
      )
      union all
      (
        select
          c.id, c.prospect_id, btrim(p.first_name || ' ' || p.last_name), o.name, c.line_status, ms(c.started_at),
          ms(c.ended_at)
        from calls c
          join prospects p on p.id = c.prospect_id
          left join companies o on o.id = p.company_id
        where c.block_id = $1 and c.line_status is not null and c.ended_at is not null
        order by c.started_at desc, c.id
        limit ${LAST_SHOWN}
      )
    `,
    values: [blockId],
  })
  return { ringing: rows.filter((row) => row.endedAt === null), last: rows.filter((row) => row.endedAt !== null) }
}

/**
 * Says that the viewer waits for a call in the block, or no longer does, and dials for those who wait. Asked over and
 * over by the Desk: it is the caller's sign of life. Gives the call they were put through to, what rings, and how the
 * last calls ended. Throws where several lines cannot be dialed.
 */
export async function dialLines(viewer: Viewer, blockId: Id, on: boolean) {
  await mustCallIn(viewer, blockId)
  if (on) await mustDialLines(viewer, blockId)
  await noteWaiting(viewer, blockId, on)
  await giveUp(blockId)
  if (on) await startCalls(blockId, await chooseCalls(viewer, blockId))
  const seat = await firstRow(
    db().query<{ call: { id: Id; prospectId: Id } | null; on: boolean }>(
      sql`
        select
          s.lines_on as on,
          case when c.id is not null then json_build_object('id', c.id, 'prospectId', c.prospect_id) end as call
        from call_block_sittings s
          left join calls c on c.id = s.call_id
        where s.user_id = $1 and s.block_id = $2 and s.ended_at is null
      `,
      [viewer.id, blockId],
    ),
  )
  return { on: seat?.on ?? false, call: seat?.call ?? null, ...(await callsOfLines(blockId)) }
}
