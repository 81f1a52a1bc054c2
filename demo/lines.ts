import { randomUUID } from 'node:crypto'
import { db } from '../server/db/pool'
import { firstRow, sql } from '../server/db/sql'
import { recordEvents } from '../server/engine/recordEvents'
import type { Viewer } from '../server/services/access/viewer'
import { makeBlock } from './blocks'
import { stopClock } from './clock'

const HOUR = 3_600_000
const CAMPAIGN = 'Cold rooms, fall'
const MESSAGE =
  'This is Thornwick Sensing. Sorry, nobody here was free just now; we will call you right back, or call (607) 555-0140.'

/**
 * A block that dials three lines for each of its callers. Of its campaign, the month's calls were dialed that way, too:
 * one of those who answered found no caller, and is called next.
 */
export async function addLines(manager: Viewer, callers: readonly Viewer[], start: number): Promise<void> {
  await db().query(
    sql`
      insert into calls (
        id, user_id, prospect_id, phone_id, line_ref, started_at, ended_at, logged_by, made_with, campaign,
        line_status, answered_at, connected_at
      )
      select
        gen_random_uuid(), e.actor_id, e.prospect_id, n.id, 'past ' || e.id, e.at - interval '40 seconds', e.at, e.id,
        'dialer', $1, r.status,
        case when r.status = 'completed' then e.at - interval '30 seconds' end,
        case when r.status = 'completed' then e.at - interval '29 seconds' end
      from events e
        join outcomes o on o.id = (e.payload ->> 'outcomeId')::uuid
        join lateral (
          select id
          from phones
          where prospect_id = e.prospect_id
          order by position
          limit 1
        ) n on true
        cross join lateral (
          select case
            when o.counts_as = 'conversation' then 'completed'
            when o.leaves_message then 'message_left'
            when o.name = 'Busy' then 'busy'
            when o.name = 'Wrong number' then 'not_in_service'
            when get_byte(uuid_send(e.id), 0) < 40 then 'rejected'
            when get_byte(uuid_send(e.id), 0) < 130 then 'voicemail'
            else 'no_answer'
          end as status
        ) r
      where e.kind = 'callLogged'
        and not e.payload ? 'blockId'
        and e.at > to_timestamp($2 / 1000.0) - interval '28 days'
    `,
    [CAMPAIGN, start],
  )
  const { id, ids } = await makeBlock(manager, callers, { name: 'Cold rooms, three lines', count: 24 })
  await db().query(
    sql`
      update call_blocks
      set lines = 3, campaign = $2, call_back_message = $3, leaves_messages = true
      where id = $1
    `,
    [id, CAMPAIGN, MESSAGE],
  )
  await abandon(id, ids[5]!, callers[1]!, start - 16 * HOUR)
  await stopClock(start)
}

/** Someone answered while no caller was free. */
async function abandon(blockId: string, prospectId: string, dialedFor: Viewer, at: number): Promise<void> {
  await stopClock(at)
  const phone = await firstRow(
    db().query<{ id: string }>(sql`select id from phones where prospect_id = $1 order by position limit 1`, [
      prospectId,
    ]),
  )
  await db().query(
    sql`
      insert into calls (
        id, user_id, prospect_id, phone_id, line_ref, started_at, ended_at, made_with, block_id, campaign, line_status,
        answered_at
      )
      values (
        $1, $2, $3, $4, $5, world_now() - interval '12 seconds', world_now(), 'dialer', $6, $7, 'abandoned', world_now()
      )
    `,
    [randomUUID(), dialedFor.id, prospectId, phone!.id, `past ${blockId}`, blockId, CAMPAIGN],
  )
  const event = { actorId: null, causedByEventId: null, phoneId: phone!.id, blockId, dialedFor: dialedFor.id }
  await recordEvents([{ id: randomUUID(), kind: 'callAbandoned', prospectId, ...event }])
  await db().query(
    sql`
      update call_block_people
      set answered_at = world_now()
      where block_id = $1 and prospect_id = $2
    `,
    [blockId, prospectId],
  )
}
