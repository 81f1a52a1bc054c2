import { answerRateOf } from '#core/dialing/pacing'
import { lineTable } from '#core/dialing/lineTable'
import { shareOf } from '#core/stats/share'
import type { Id } from '#core/instant'
import { db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import type { Viewer } from '../access/viewer'
import { mustSeeBlock } from '../blocks/access'
import { countCampaign, howMany, linesNow } from './campaign'
import { getLineOutcomes, outcomesFault } from './lineOutcomes'

/** What is usual while a campaign has no calls of its own, in seconds: common practice, no published source. */
const USUAL_CALL_SECONDS = 25
const USUAL_HANDLE_SECONDS = 75

interface Seen {
  lines: number
  campaign: string
  callers: number
  callSeconds: number | null
  handleSeconds: number | null
}

/** How the lines of a block do: its campaign's calls of 30 days, what may be dialed now, and why not more. */
export async function linesReport(viewer: Viewer, blockId: Id) {
  await mustSeeBlock(viewer, blockId)
  const row = (await firstRow(
    db().query<Seen>(
      sql`
        select
          b.lines, b.campaign,
          (select count(*)::int from call_block_callers k where k.block_id = b.id) as callers,
          s.call_seconds as "callSeconds", s.handle_seconds as "handleSeconds"
        from call_blocks b
          left join lateral (
            select
              avg(extract(epoch from c.ended_at - c.started_at)) filter (
                where c.line_status in ('no_answer', 'voicemail', 'message_left')
              )::float8 as call_seconds,
              avg(extract(epoch from e.at - c.connected_at)) filter (where c.connected_at is not null)::float8
                as handle_seconds
            from calls c
              left join events e on e.id = c.logged_by
            where lower(c.campaign) = lower(b.campaign) and c.line_status is not null
          ) s on true
        where b.id = $1
      `,
      [blockId],
    ),
  ))!
  const [counts, now, outcomes] = await Promise.all([countCampaign(row.campaign), linesNow(blockId), getLineOutcomes()])
  const answerRate = answerRateOf(counts)
  const facts = {
    callers: row.callers,
    answerRate,
    callSeconds: Math.max(1, row.callSeconds ?? USUAL_CALL_SECONDS),
    handleSeconds: Math.max(1, row.handleSeconds ?? USUAL_HANDLE_SECONDS),
  }
  return {
    lines: row.lines,
    campaign: row.campaign,
    dialed: counts.dialed,
    answered: counts.answered,
    abandoned: counts.abandoned,
    byStatus: counts.byStatus,
    abandonedShare: shareOf(counts.abandoned, counts.answered),
    ...now,
    mayDial: howMany(now, row.lines, counts),
    fault: row.lines > 1 ? outcomesFault(outcomes) : null,
    facts,
    table: lineTable(facts),
  }
}
