import type { Id } from '#core/instant'
import { db } from '../../db/pool'
import { sql } from '../../db/sql'

/** Notes that test emails have come back. */
export async function noteReturned(ids: readonly Id[]): Promise<void> {
  await db().query(
    sql`
      update system_emails
      set returned_at = coalesce(returned_at, now()), sent_at = coalesce(sent_at, now())
      where id = any($1::uuid[]) and kind = 'round_trip'
    `,
    [ids],
  )
}
