import type { ClockState } from '#shared/api/session'
import { db, type Db } from '../../db/pool'
import { env } from '../../environment'
import { Refusal } from '../access/errors'
import { firstRow, sql } from '../../db/sql'

/** What time it is in the world, and whether the clock is being moved. */
export async function clockState(): Promise<ClockState> {
  const row = await firstRow(
    db().query<{ now: number; frozen: boolean; target: number | null }>(
      sql`
        select ms(world_now()) as now, frozen_at is not null as frozen, ms(target) as target
        from clock
      `,
    ),
  )
  return { ...row!, movable: env().demo }
}

/** Everything still under way that belongs to the moment the world's clock shows. */
const BUSY_SQL = sql`
  (
    exists (select from scheduled_actions where at <= world_now() and set_aside_at is null)
      or exists (select from email_messages where status = 'queued' and claimed_by is not null)
      or exists (select from email_messages where status = 'sending')
  )
`

/**
 * Sends the clock on its way: by an hour, a day, or to the next thing on the agenda. The worker takes it there,
 * stopping at everything that falls due. Only in the demo.
 */
export async function moveClock(by: 'hour' | 'day' | 'step'): Promise<{ target: number }> {
  if (!env().demo) throw new Refusal('not_allowed', 'The clock can be moved in the demo only')
  const aim = {
    hour: `world_now() + interval '1 hour'`,
    day: `world_now() + interval '1 day'`,
    step: sql`
      coalesce(
        (
          select min(at)
          from (
            select at
            from scheduled_actions
            where at > world_now() and set_aside_at is null
            union all
            select due_at
            from tasks
            where status = 'open' and due_at > world_now()
          ) x
        ), world_now() + interval '1 hour'
      )
    `,
  }[by]
  const row = await firstRow(
    db().query<{ target: number }>(
      sql`
        update clock
        set target = ${aim}, frozen_at = world_now()
        where target is null
        returning ms(target) as target
      `,
    ),
  )
  if (!row) throw new Refusal('conflict', 'The demo clock is already moving')
  return row
}

/**
 * Takes a clock that is headed somewhere one stop further: to the next thing on the agenda, or to where it is headed.
 * Does nothing while anything of the present moment is still under way. Gives whether it moved. Its state is in the
 * database, so a worker that dies on the way is followed by another that goes on.
 */
export async function stepClock(client: Db = db()): Promise<boolean> {
  const { rowCount } = await client.query(sql`
    update clock c
    set
      frozen_at = case when n.at is not null and n.at < c.target then n.at end,
      ahead = case when n.at is not null and n.at < c.target then c.ahead else c.target - clock_timestamp() end,
      target = case when n.at is not null and n.at < c.target then c.target end
    from (select (select min(at) from scheduled_actions where at > world_now() and set_aside_at is null) as at) n
    where c.target is not null and not ${BUSY_SQL}
  `)
  return Boolean(rowCount)
}
