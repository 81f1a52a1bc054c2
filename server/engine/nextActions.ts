import type { Id } from '#core/instant'
import { newId } from '#shared/newId'
import { db } from '../db/pool'
import { recordEvents } from './recordEvents'
import { firstRow, sql } from '../db/sql'

/** How many people are looked at in one go, and how many of them are seen to. */
const SLICE = 20_000
const AT_MOST = 200

/** Before every id there is. */
const FIRST = '00000000-0000-0000-0000-000000000000'

/**
 * The people of a slice in an open or paused stage who have nothing to come: no task, no cadence, none that is
 * scheduled to start, no email on its way.
 */
const MISSING_SQL = sql`
  with slice as materialized (
    select id
    from prospects
    where id > $1
    order by id
    limit ${SLICE}
  )
  select
    (select max(id::text) from slice) as last,
    array(
      select p.id
      from slice
        join prospects p using (id)
        join stages s on s.id = p.stage_id and s.kind in ('open', 'paused')
        left join companies c on c.id = p.company_id
      where p.status = 'active'
        and p.merged_into is null
        and p.erased_at is null
        and not (p.stop_call and p.stop_email)
        and coalesce(c.status, 'open') not in ('not_a_fit', 'do_not_contact')
        and not exists (select from tasks t where t.prospect_id = p.id and t.status = 'open')
        and not exists (select from enrollments e where e.prospect_id = p.id and e.status <> 'ended')
        and not exists (select from email_messages m where m.prospect_id = p.id and m.status in ('queued', 'sending'))
        and not exists (
          select
          from delayed_actions d
          where d.prospect_id = p.id and d.status = 'waiting' and d.action ->> 'type' = 'startCadence'
        )
      order by p.id
      limit ${AT_MOST}
    ) as ids
`

/**
 * Goes through all people, a slice at a time, and gives anyone who has nothing to come a next action: those for whom no
 * event did (their stage was opened again, they came with touches of before). `after` is the id to go on from; gives
 * the one to go on from next, null at the end, and how many were seen to.
 */
export async function planMissingActions(after: Id | null): Promise<{ next: Id | null; planned: number }> {
  const row = await firstRow(
    db().query<{ last: Id | null; ids: Id[] }>({
      name: 'next-actions-missing',
      text: MISSING_SQL,
      values: [after ?? FIRST],
    }),
  )
  const { last, ids } = row!
  if (ids.length) {
    await recordEvents(
      ids.map((prospectId) => ({
        id: newId(),
        kind: 'nextActionMissing',
        prospectId,
        actorId: null,
        causedByEventId: null,
      })),
    )
  }
  return { next: ids.length === AT_MOST ? ids.at(-1)! : last, planned: ids.length }
}
