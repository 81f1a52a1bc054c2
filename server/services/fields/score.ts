import type { Score } from '#shared/api/settings/settings'
import { db, transaction } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'

/** What behavior is worth, and from how many points on someone is warm or hot. */
export async function getScore(): Promise<Score> {
  const row = await firstRow(
    db().query<Score>(sql`select points, warm_from as "warmFrom", hot_from as "hotFrom" from team`),
  )
  return row!
}

/** Changes what behavior is worth. It holds for whatever happens from now on; a job scores everyone again. */
export async function editScore({ points, warmFrom, hotFrom }: Score): Promise<Score> {
  await transaction(async (client) => {
    await client.query(sql`update team set points = $1, warm_from = $2, hot_from = $3`, [
      JSON.stringify(points),
      warmFrom,
      hotFrom,
    ])
    await client.query(sql`select graphile_worker.add_job('rescore', job_key => 'rescore', max_attempts => 3)`)
  })
  return getScore()
}

const BATCH = 2_000

/** Scores everyone again, some at a time, so that nobody waits for it long; run again, it comes to the same. */
export async function rescore(): Promise<void> {
  let last = '00000000-0000-0000-0000-000000000000'
  for (;;) {
    const { rows } = await db().query<{ id: string }>(
      sql`select id from prospects where id > $1 order by id limit $2`,
      [last, BATCH],
    )
    if (!rows.length) return
    const ids = rows.map((row) => row.id)
    await transaction(async (client) => {
      await client.query(sql`select count_touches($1)`, [ids])
      // Where the points are the same but the bounds have moved.
      await client.query(
        sql`
          update prospects
          set rating = rating_of(score)
          where id = any($1::uuid[]) and rated_by_score and rating is distinct from rating_of(score)
        `,
        [ids],
      )
    })
    last = ids.at(-1)!
  }
}
