import { db, transaction } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'

/** Whether the team records calls, for how long recordings are kept, and how many there are. */
export async function getSettings(): Promise<{ recordsCalls: boolean; keptDays: number; count: number }> {
  const row = await firstRow(
    db().query<{ recordsCalls: boolean; keptDays: number; count: number }>(sql`
      select
        records_calls as "recordsCalls", recordings_kept_days as "keptDays",
        (select count(*)::int from call_recordings) as count
      from team
    `),
  )
  return row!
}

/** Changes them; recordings that are kept already are deleted when the new number of days says. */
export async function editSettings(given: { recordsCalls: boolean; keptDays: number }): Promise<void> {
  await transaction(async (client) => {
    await client.query(sql`update team set records_calls = $1, recordings_kept_days = $2`, [
      given.recordsCalls,
      given.keptDays,
    ])
    await client.query(
      sql`
        update call_recordings r
        set delete_at = c.started_at + $1 * interval '1 day'
        from calls c
        where c.id = r.call_id
      `,
      [given.keptDays],
    )
  })
}
