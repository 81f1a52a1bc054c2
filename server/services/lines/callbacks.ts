import { setTimeout as wait } from 'node:timers/promises'
import { v5 as derivedId } from 'uuid'
import { CONNECT_WITHIN_MS } from '#core/dialing/pacing'
import type { LineResult } from '#core/enumerations'
import type { Id } from '#core/instant'
import { linePool } from '../../channels/phone/dialer'
import { db, transaction } from '../../db/pool'
import { sayUserChanged } from '../../db/userChanges'
import { firstRow, sql } from '../../db/sql'
import { AlreadyRecorded, recordEvents } from '../../engine/recordEvents'
import { log } from '../../log'
import { Refusal } from '../access/errors'
import { viewerOf } from '../access/sessions'
import { sayBlockChanged } from '../blocks/changes'
import { leaveOut } from '../blocks/next'
import { readCandidates } from '../blocks/people'
import { logOutcome } from '../desk/outcomes'
import { messageWithContent } from '../voicemail/messages'
import { ALIVE } from './campaign'
import { freePerson } from './dialing'
import { getLineOutcomes } from './lineOutcomes'

/** How a call of several lines ended, as the exchange says. */
export type LineEnd = Exclude<LineResult, 'message_left'> | 'completed' | 'abandoned'

/** The namespace of the ids that are made of calls, for the event that one was abandoned. */
const ABANDONED = '5d7f2a31-6f0b-4c3e-9a50-0be1d3b0a6f2'
/** How long a caller is looked for once someone has answered, in milliseconds: less than the exchange waits. */
const LOOK_MS = CONNECT_WITHIN_MS - 300
const LOOK_AGAIN_MS = 80

/** Gives a call to the caller who has waited longest; null where none waits, or it has one already. */
async function claim(callId: Id): Promise<{ userId: Id } | null> {
  const row = await firstRow(
    db().query<{ userId: Id }>({
      name: 'claim-caller',
      text: sql`
        with seat as materialized (
          select s.id
          from calls c
            join call_block_sittings s on s.block_id = c.block_id
          where c.id = $1
            and c.line_status in ('dialing', 'ringing')
            and s.ended_at is null
            and s.waiting_since is not null
            and s.last_seen_at > now() - ${ALIVE}
            and not exists (select from call_block_sittings o where o.call_id = $1)
          order by s.waiting_since, s.id
          limit 1
          for update of s skip locked
        )
        update call_block_sittings s
        set waiting_since = null, call_id = $1
        from seat
        where s.id = seat.id
        returning s.user_id as "userId"
      `,
      values: [callId],
    }),
  )
  return row ?? null
}

/**
 * A person has answered: the caller who has waited longest is put through. Where none waits, one is looked for as long
 * as there is time; then the exchange says the call-back message, and that the call was abandoned.
 */
export async function lineAnswered(callId: Id, ref: string): Promise<void> {
  const until = Date.now() + LOOK_MS
  await db().query(sql`update calls set answered_at = coalesce(answered_at, world_now()) where id = $1`, [callId])
  let caller = await claim(callId)
  while (!caller && Date.now() < until) {
    await wait(LOOK_AGAIN_MS)
    caller = await claim(callId)
  }
  if (!caller) return
  if (await linePool()?.connect(ref)) {
    await db().query(
      sql`
        with put_through as (
          update calls
          set user_id = $2, line_status = 'connected', connected_at = world_now(), line_ref = $3
          where id = $1
          returning block_id, prospect_id
        )
        update call_block_people b
        set taken_by = $2, taken_at = now()
        from put_through p
        where b.block_id = p.block_id and b.prospect_id = p.prospect_id
      `,
      [callId, caller.userId, ref],
    )
    await sayChanged(callId)
    return
  }
  // They hung up meanwhile: the caller waits on.
  await db().query(
    sql`
      update call_block_sittings
      set call_id = null, waiting_since = case when lines_on and ended_at is null then now() end
      where call_id = $1
    `,
    [callId],
  )
}

/** Says to those who look at the block of a call that it has changed. */
async function sayChanged(callId: Id): Promise<void> {
  const line = await readLine(callId)
  if (line?.blockId) await sayBlockChanged(line.blockId)
}

interface EndedLine {
  userId: Id
  prospectId: Id
  phoneId: Id
  blockId: Id | null
  leavesMessages: boolean
  status: string
}

async function readLine(callId: Id): Promise<EndedLine | null> {
  const row = await firstRow(
    db().query<EndedLine>(
      sql`
        select
          c.user_id as "userId", c.prospect_id as "prospectId", c.phone_id as "phoneId", c.block_id as "blockId",
          c.line_status as status, coalesce(b.leaves_messages, false) as "leavesMessages"
        from calls c
          left join call_blocks b on b.id = c.block_id
        where c.id = $1 and c.line_status is not null
      `,
      [callId],
    ),
  )
  return row ?? null
}

/** A voicemail box has answered: it gets the caller's message where the block leaves messages, and the call is over. */
export async function lineVoicemail(callId: Id, ref: string): Promise<void> {
  const line = await readLine(callId)
  if (!line || !['dialing', 'ringing'].includes(line.status)) return
  const left = line.leavesMessages && (await leaveMessage(callId, ref, line.userId))
  if (!left) await linePool()?.hangUp(ref)
  await end(callId, line, left ? 'message_left' : 'voicemail')
}

async function leaveMessage(callId: Id, ref: string, userId: Id): Promise<boolean> {
  const viewer = await viewerOf(userId)
  const message = viewer && (await messageWithContent(viewer, null).catch(() => null))
  if (!message || !(await linePool()?.play(ref, message))) return false
  await db().query(sql`update calls set voicemail_id = $2, voicemail_at = world_now() where id = $1`, [
    callId,
    message.id,
  ])
  return true
}

/** A call of several lines is over. One that is announced twice is over once. */
export async function lineEnded(callId: Id, result: LineEnd): Promise<void> {
  const line = await readLine(callId)
  if (!line) return
  if (line.status === 'connected') {
    await db().query(
      sql`
        update calls
        set line_status = 'completed', ended_at = coalesce(ended_at, world_now())
        where id = $1
      `,
      [callId],
    )
    await sayChanged(callId)
    sayUserChanged(db(), 'line', [line.userId])
  } else if (['dialing', 'ringing'].includes(line.status) && result !== 'completed') await end(callId, line, result)
}

/** Notes how a call ended that no caller was on: logged with its outcome, or called back where it was abandoned. */
async function end(callId: Id, line: EndedLine, result: LineResult | 'abandoned'): Promise<void> {
  if (result === 'abandoned') await recordAbandoned(callId, line)
  else await logUnanswered(callId, line, result)
  await db().query(
    sql`
      update calls
      set line_status = $2, ended_at = coalesce(ended_at, world_now())
      where id = $1 and line_status in ('dialing', 'ringing')
    `,
    [callId, result],
  )
  if (line.blockId) await sayBlockChanged(line.blockId)
}

async function recordAbandoned(callId: Id, { prospectId, phoneId, blockId, userId }: EndedLine): Promise<void> {
  if (blockId === null) return
  const id = derivedId(callId, ABANDONED)
  try {
    await recordEvents([
      {
        id,
        kind: 'callAbandoned',
        prospectId,
        actorId: null,
        causedByEventId: null,
        phoneId,
        blockId,
        dialedFor: userId,
      },
    ])
  } catch (error) {
    if (!(error instanceof AlreadyRecorded)) throw error
  }
  await transaction(async (client) => {
    await freePerson(blockId, callId, client)
    await client.query(
      sql`
        update call_block_people
        set answered_at = world_now()
        where block_id = $1 and prospect_id = $2
      `,
      [blockId, prospectId],
    )
  })
}

/**
 * Logs a call that no person answered, as its caller would. What cannot be logged is left out of the block with the
 * reason, so that nobody is dialed over and over.
 */
async function logUnanswered(callId: Id, line: EndedLine, result: LineResult): Promise<void> {
  const { prospectId, phoneId, blockId, userId } = line
  if (blockId === null) return
  const viewer = await viewerOf(userId)
  const outcomeId = (await getLineOutcomes())[result]
  const [candidate] = await readCandidates(db(), [prospectId], blockId)
  try {
    if (!viewer || !outcomeId || !candidate) throw new Refusal('refused', 'No outcome is chosen for it')
    await logOutcome(viewer, prospectId, {
      id: callId,
      outcomeId,
      taskId: candidate.taskId,
      phoneId,
      blockId,
      call: null,
      details: {},
      fingerprint: null,
    })
  } catch (error) {
    if (error instanceof AlreadyRecorded) return
    if (!(error instanceof Refusal)) throw error
    log.warn(`A call of several lines could not be logged: ${error.message}`)
    await leaveOut(db(), blockId, new Map([[prospectId, `Called, and not logged: ${error.message}`]]))
  }
}
