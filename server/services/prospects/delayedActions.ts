import { namesOf } from '#core/actions/kind/define'
import { describeScheduled } from '#core/actions/registry'
import type { ConfiguredAction, Playbook } from '#core/engine/state/playbook'
import type { Id } from '#core/instant'
import type { Prospect } from '#shared/api/prospects'
import { db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { notFound } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { byHand } from '../cadences/enrollments'

interface ScheduledRow {
  id: Id
  action: ConfiguredAction
  at: number
  outcome: string | null
  causedAt: number | null
}

/** What is scheduled for a prospect, the next first, each with the outcome that it follows from. */
export async function scheduledFor(prospectId: Id, book: Playbook): Promise<Prospect['scheduled']> {
  const { rows } = await db().query<ScheduledRow>({
    name: 'scheduled-for',
    text: sql`
      select d.id, d.action, ms(a.at) as at, o.name as outcome, ms(e.at) as "causedAt"
      from delayed_actions d
        join scheduled_actions a on a.ref_id = d.id
        left join outcomes o on o.id = d.outcome_id
        left join events e on e.id = a.caused_by_event_id
      where d.prospect_id = $1 and d.status = 'waiting'
      order by a.at, d.id
    `,
    values: [prospectId],
  })
  const names = namesOf(book)
  return rows.map(({ action, ...row }) => ({ ...row, summary: describeScheduled(action, names) }))
}

/** Cancels an action that waits for its time; refused where it has been done or canceled already. */
export async function cancelDelayedAction(viewer: Viewer, id: Id, delayedActionId: Id): Promise<{ summary: string }> {
  const row = await firstRow(
    db().query<{ prospect_id: Id }>(sql`select prospect_id from delayed_actions where id = $1`, [delayedActionId]),
  )
  if (!row) throw notFound('scheduled action')
  return byHand(viewer, {
    id,
    kind: 'actionCancelled',
    prospectId: row.prospect_id,
    actorId: viewer.id,
    causedByEventId: null,
    delayedActionId,
  })
}
