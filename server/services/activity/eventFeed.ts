import type { z } from 'zod'
import type { readEvents } from '#shared/api/events/feed'
import { db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'

type LoggedEvent = z.output<typeof readEvents.response>['events'][number]

/** The first key of the locks by which transactions that write events say from which position on (migration 0045). */
const POSITION_LOCKS = 45
/** The second key holds the lowest 32 bits of the position. */
const KEYS = 2 ** 32

/** The last position of which it is sure that nothing before it can still appear. */
async function sureUntil(): Promise<number> {
  // In this order: who takes a lock after it was looked for gets positions beyond the last one that had been given.
  const last = await firstRow(
    db().query<{ value: number }>(
      sql`select case when is_called then last_value else 0 end as value from events_position_seq`,
    ),
  )
  const { rows } = await db().query<{ key: number }>(
    sql`
      select objid::bigint as key
      from pg_locks
      where locktype = 'advisory'
        and database = (select oid from pg_database where datname = current_database())
        and classid = $1
        and objsubid = 2
    `,
    [POSITION_LOCKS],
  )
  return Math.min(last!.value, ...rows.map(({ key }) => last!.value - ((((last!.value - key) % KEYS) + KEYS) % KEYS)))
}

/**
 * The events after a position, oldest first, and the position to ask after next. It stops where a transaction that is
 * still open may have written: so an event that becomes visible late is never passed over.
 */
export async function eventsAfter(
  after: number,
  { kind, limit }: { kind?: string; limit: number },
): Promise<{ events: LoggedEvent[]; next: number }> {
  const until = await sureUntil()
  const { rows } = await db().query<LoggedEvent>(
    sql`
      select
        position, id, ms(at) as at, kind, actor_id as "actorId", caused_by_event_id as "causedBy", payload,
        case
          when form_id is not null then json_build_object('type', 'form', 'id', form_id)
          when list_id is not null then json_build_object('type', 'list', 'id', list_id)
          when deal_id is not null then json_build_object('type', 'deal', 'id', deal_id)
          when company_id is not null then json_build_object('type', 'company', 'id', company_id)
          else json_build_object('type', 'prospect', 'id', prospect_id)
        end as subject
      from events
      where position > $1
        and position <= $2
        and ($3::text is null or kind = $3)
      order by position
      limit $4
    `,
    [after, until, kind ?? null, limit],
  )
  return { events: rows, next: rows.length === limit ? rows.at(-1)!.position : Math.max(after, until) }
}
