import type { PoolClient } from 'pg'
import type { ScheduledKind } from '#core/engine/state/scheduledActions'
import type { Id } from '#core/instant'
import { db, isTransient, transaction, type Deferred } from '../db/pool'
import { sql } from '../db/sql'

/** How often due work may fail before it is set aside for a person to look at. */
export const ALLOWED_FAILURES = 3

/** An entry of the agenda that is due and has been claimed. */
export interface DueEntry {
  ref_id: Id
  prospect_id: Id
  caused_by_event_id: Id | null
}

interface ClaimedEntry extends DueEntry {
  crashes: number
}

/** Who does due work: a loop of a worker. Null where nothing needs to be noted, as in tests. */
export interface Hand {
  workerId: string
  loop: string
}

type Work<T> = (client: PoolClient, later: Deferred, entries: readonly DueEntry[]) => Promise<T>

const CLAIM_SQL = sql`
  select ref_id, prospect_id, caused_by_event_id, crashes
  from scheduled_actions
  where kind = $1 and at <= world_now() and set_aside_at is null and ($3::uuid is null or ref_id = $3)
  order by at, first_at, ref_id
  limit $2
  for update skip locked
`

/**
 * Claims what is due, up to `limit`, and does it in one transaction; gives what `work` gives, or `nothing` where
 * nothing is due. Entries held by another process are left to it. Where the batch fails, its entries are done one by
 * one, so that one that cannot be done stops none of the others: it is tried again a minute later and set aside after
 * the third failure.
 */
export async function doDueWork<T>(
  kind: ScheduledKind,
  limit: number,
  hand: Hand | null,
  nothing: T,
  work: Work<T>,
): Promise<T> {
  let claimed: readonly DueEntry[] = []
  try {
    return await transaction(
      async (client, later) => {
        claimed = apart(await claim(client, kind, limit))
        await noteInHand(hand, claimed)
        return claimed.length ? work(client, later, claimed) : nothing
      },
      { planned: true },
    )
  } catch (error) {
    if (isTransient(error) || !claimed.length) throw error
    return doOneByOne(kind, hand, claimed, nothing, work)
  }
}

async function claim(
  client: PoolClient,
  kind: ScheduledKind,
  limit: number,
  only: Id | null = null,
): Promise<ClaimedEntry[]> {
  const { rows } = await client.query<ClaimedEntry>({ name: 'claim-due', text: CLAIM_SQL, values: [kind, limit, only] })
  return rows
}

/**
 * What may be done together. Entries that were in hand when a program ended are done alone, after the others; first
 * those that were least often, so that one which ends the program again and again does not keep the rest back.
 */
function apart(entries: readonly ClaimedEntry[]): readonly DueEntry[] {
  const sound = entries.filter((entry) => entry.crashes === 0)
  if (sound.length) return sound
  const fewest = Math.min(...entries.map((entry) => entry.crashes))
  return entries.filter((entry) => entry.crashes === fewest).slice(0, 1)
}

async function doOneByOne<T>(
  kind: ScheduledKind,
  hand: Hand | null,
  entries: readonly DueEntry[],
  nothing: T,
  work: Work<T>,
): Promise<T> {
  let result = nothing
  for (const { ref_id } of entries) {
    try {
      result = await transaction(
        async (client, later) => {
          const rows = await claim(client, kind, 1, ref_id)
          await noteInHand(hand, rows)
          return rows.length ? work(client, later, rows) : result
        },
        { planned: true },
      )
    } catch (error) {
      if (isTransient(error)) throw error
      await noteFailure(ref_id, error)
    }
  }
  return result
}

/** Counts a failure: the entry is due again a minute later for each so far, or is set aside. */
async function noteFailure(refId: Id, error: unknown): Promise<void> {
  await db().query(
    sql`
      update scheduled_actions
      set
        failures = failures + 1, last_error = $2, at = world_now() + make_interval(mins => failures + 1),
        set_aside_at = case when failures + 1 >= $3 then now() end
      where ref_id = $1
    `,
    [refId, describeError(error), ALLOWED_FAILURES],
  )
}

const lastNoted = new Map<string, boolean>()

/**
 * Notes, outside the transaction that does it, what a loop is about to do; nothing is written while there is nothing to
 * do.
 */
async function noteInHand(hand: Hand | null, entries: readonly DueEntry[]): Promise<void> {
  if (!hand) return
  const key = `${hand.workerId}/${hand.loop}`
  if (!entries.length && !lastNoted.get(key)) return
  await db().query({
    name: 'note-in-hand',
    text: sql`
      insert into work_in_hand (worker_id, loop, ref_ids)
      values ($1, $2, $3)
      on conflict (worker_id, loop) do update set ref_ids = excluded.ref_ids
    `,
    values: [hand.workerId, hand.loop, entries.map((entry) => entry.ref_id)],
  })
  lastNoted.set(key, entries.length > 0)
}

/**
 * Counts a crash for everything that a worker had in hand when it ended. One in the midst of others says nothing about
 * any of them yet; an entry that was in hand alone at three more crashes is set aside.
 */
export async function noteCrash(workerId: string): Promise<void> {
  await db().query(
    sql`
      with ended as (
        delete from work_in_hand
        where worker_id = $1
        returning ref_ids
      ),
      in_hand as (
        select unnest(ref_ids) as ref_id, cardinality(ref_ids) = 1 as alone
        from ended
      )
      update scheduled_actions a
      set
        crashes = case when i.alone then a.crashes + 1 else greatest(a.crashes, 1) end,
        last_error = 'The program ended while it was working on this',
        set_aside_at = case when i.alone and a.crashes + 1 >= $2 then now() end
      from in_hand i
      where a.ref_id = i.ref_id and a.set_aside_at is null
    `,
    [workerId, 1 + ALLOWED_FAILURES],
  )
}

/** An error in one line, without values that were sent along. */
export function describeError(error: unknown): string {
  return (error instanceof Error ? error.message : String(error)).split('\n')[0]!.slice(0, 500)
}
