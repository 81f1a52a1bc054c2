import { randomUUID } from 'node:crypto'
import { DateTime } from 'luxon'
import { isBusinessDay } from '../core/calendar/local'
import { db } from '../server/db/pool'
import { holidayTables } from '../server/engine/holidays'
import type { Viewer } from '../server/services/access/viewer'
import { planTask } from '../server/services/desk/tasks'
import { NO_CONTENT } from '../server/services/templates/toDoContent'
import { firstRow, sql } from '../server/db/sql'

/** What calls are about, as reps write it down. */
const ABOUT = [
  'Ask about the audit in spring',
  'Follow up on the sample',
  'Second site: who decides?',
  'Walk through the quote',
  'Ask how the trial is going',
  'Call after the fair',
  'Budget is set in January',
]

/** About how many people a rep finds in the morning. */
const A_DAY = 60

/**
 * A rep's day on top of what the cadences bring: calls left over from yesterday, due this morning, and planned for the
 * afternoon.
 */
export async function fillTheDay(rep: Viewer): Promise<void> {
  const clock = await firstRow(db().query<{ now: number }>(sql`select ms(world_now()) as now`))
  const now = clock!.now
  // What was left over was due on the working day before.
  let before = DateTime.fromMillis(now).setZone(rep.timeZone).minus({ days: 1 })
  while (!isBusinessDay(before.toISODate()!, { country: 'US', region: 'NY' }, holidayTables())) {
    before = before.minus({ days: 1 })
  }
  const leftOver = before.set({ hour: 14, minute: 40 }).toMillis()
  const tonight = DateTime.fromMillis(now).setZone(rep.timeZone).endOf('day').toJSDate()
  const due = await firstRow(
    db().query<{ count: number }>(
      sql`
        select count(*)::int as count
        from tasks
        where owner_id = $1 and status = 'open' and due_at <= $2
      `,
      [rep.id, tonight],
    ),
  )
  const fromCadences = Math.min(14, Math.max(4, A_DAY - due!.count))
  // The calls of cadences that come in the next days fall due this morning.
  const { rowCount: moved } = await db().query(
    sql`
      with next as (
        select e.id
        from enrollments e
          join cadence_steps s on s.id = e.step_id and s.kind = 'call'
          join prospects p on p.id = e.prospect_id
        where p.owner_id = $1 and e.status = 'waiting' and p.country in ('US', 'CA')
        order by e.due_at, e.id
        limit $2
      ),
      moved as (
        update enrollments e
        set due_at = world_now() - interval '20 minutes'
        from next
        where next.id = e.id
        returning e.id, e.due_at
      )
      update scheduled_actions a
      set at = moved.due_at
      from moved
      where a.ref_id = moved.id
    `,
    [rep.id, fromCadences],
  )
  // A text, a social touch and an email to look at, for people of the cadences that have them.
  await db().query(
    sql`
      with steps as (
        select id, cadence_id, row_number() over (partition by cadence_id order by position) as place
        from cadence_steps
        where kind in ('text', 'social') or review
      ),
      people as (
        select e.id, e.cadence_id, row_number() over (partition by e.cadence_id order by e.due_at, e.id) as place
        from enrollments e
          join prospects p on p.id = e.prospect_id and p.owner_id = $1
        where e.status = 'waiting' and exists (select from phones n where n.prospect_id = p.id and n.kind = 'mobile')
      ),
      moved as (
        update enrollments e
        set step_id = s.id, due_at = world_now() - interval '25 minutes'
        from people k
          join steps s on s.cadence_id = k.cadence_id and s.place = k.place
        where k.id = e.id
        returning e.id, e.due_at
      )
      update scheduled_actions a
      set at = moved.due_at
      from moved
      where a.ref_id = moved.id
    `,
    [rep.id],
  )
  const planned = Math.max(8, A_DAY - due!.count - (moved ?? 0))
  const { rows } = await db().query<{ id: string }>(
    sql`
      select p.id
      from prospects p
        join stages s on s.id = p.stage_id and s.kind in ('open', 'paused')
        left join companies c on c.id = p.company_id
      where p.owner_id = $1
        and p.status = 'active'
        and not p.stop_call
        and coalesce(c.status, 'open') in ('open', 'in_deal', 'customer')
        and exists (select from phones n where n.prospect_id = p.id and n.status in ('unverified', 'correct'))
        and not exists (select from enrollments e where e.prospect_id = p.id and e.status <> 'ended')
        and not exists (
          select
          from tasks t
          where t.prospect_id = p.id
            and t.status = 'open'
            and t.due_at < world_now() + interval '3 days'
            and t.kind <> 'first_contact'
        )
        and p.last_touch_at is not null
      order by p.last_touch_at, p.id
      limit $2
    `,
    [rep.id, planned],
  )
  for (const [index, { id }] of rows.entries()) {
    const today = index < planned / 2 ? now - (index - 4) * 420_000 : now + (index - planned / 2 + 1) * 900_000
    const dueAt = index < 5 ? leftOver + index * 600_000 : today
    await planTask(rep, id, {
      ...NO_CONTENT,
      id: randomUUID(),
      task: 'call',
      title: ABOUT[index % ABOUT.length]!,
      dueAt,
      ownerId: null,
    }).catch(() => {})
  }
}
