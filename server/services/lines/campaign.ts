import { COUNTED_DAYS, answerRateOf, linesToDial } from '#core/dialing/pacing'
import type { LineStatus } from '#core/enumerations'
import type { Id } from '#core/instant'
import { db, type Db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'

/** A campaign's calls of several lines in the last 30 days, by how they stand or ended. */
export interface CampaignCounts {
  dialed: number
  answered: number
  abandoned: number
  byStatus: Partial<Record<LineStatus, number>>
}

/** Counts a campaign's calls over the last 30 days. Blocks of the same name of campaign, in any case, are one. */
export async function countCampaign(campaign: string, client: Db = db()): Promise<CampaignCounts> {
  const { rows } = await client.query<{ status: LineStatus; count: number; answered: number }>({
    name: 'count-campaign',
    text: sql`
      select
        line_status as status, count(*)::int as count,
        count(*) filter (where connected_at is not null or line_status = 'abandoned')::int as answered
      from calls
      where lower(campaign) = lower($1)
        and line_status is not null
        and started_at > world_now() - $2 * interval '1 day'
      group by 1
    `,
    values: [campaign, COUNTED_DAYS],
  })
  const sum = (part: 'count' | 'answered') => rows.reduce((total, row) => total + row[part], 0)
  const byStatus = Object.fromEntries(rows.map(({ status, count }) => [status, count])) as CampaignCounts['byStatus']
  const underWay = (byStatus.dialing ?? 0) + (byStatus.ringing ?? 0) + (byStatus.failed ?? 0)
  return { dialed: sum('count') - underWay, answered: sum('answered'), abandoned: byStatus.abandoned ?? 0, byStatus }
}

/** For so long a caller counts as waiting after the last sign of life of their browser. */
export const ALIVE = `interval '6 seconds'`
/** A call rings no longer than this; one that was forgotten is no longer under way. */
const LONGEST = `interval '2 minutes'`

/** Who waits in a block and what rings for them now. */
export interface LinesNow {
  free: number
  ringing: number
}

/** Counts the callers of a block who wait for a call, and the calls that may still be answered. */
export async function linesNow(blockId: Id, client: Db = db()): Promise<LinesNow> {
  const row = await firstRow(
    client.query<LinesNow>({
      name: 'lines-now',
      text: sql`
        select
          (
            select count(*)::int
            from call_block_sittings
            where block_id = $1
              and ended_at is null
              and waiting_since is not null
              and last_seen_at > now() - ${ALIVE}
          ) as free,
          (
            select count(*)::int
            from calls
            where block_id = $1
              and line_status in ('dialing', 'ringing')
              and started_at > world_now() - ${LONGEST}
          ) as ringing
      `,
      values: [blockId],
    }),
  )
  return row!
}

/** How many calls may be started now for the callers of a block who wait. */
export function howMany(now: LinesNow, perCaller: number, counts: CampaignCounts): number {
  return linesToDial({ ...now, perCaller, answerRate: answerRateOf(counts), counted: counts })
}
