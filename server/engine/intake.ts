import { allotIntake } from '#core/cadence/intake'
import { firstStep } from '#core/cadence/route'
import { localDay } from '#core/calendar/local'
import { placeOf, type EngineState } from '#core/engine/state/engineState'
import type { Playbook } from '#core/engine/state/playbook'
import type { Id } from '#core/instant'
import type { Db } from '../db/pool'
import { sql } from '../db/sql'

interface Started {
  cadenceId: Id
  day: string
  count: number
}

/**
 * Puts off everyone who finds no room today in a cadence that only so many may start a day; gives the enrollments that
 * may go on now. In the order they are given, behind a lock on the cadence, so that workers share one count.
 */
export async function rationStarts(
  client: Db,
  enrollmentIds: readonly Id[],
  state: EngineState,
  playbook: Playbook,
): Promise<ReadonlySet<Id>> {
  const atStart = enrollmentIds.flatMap((id) => {
    const row = state.enrollment[id]
    const cadence = row && playbook.cadences[row.cadenceId]
    if (!row || !cadence?.entry.perDay) return []
    return row.status === 'waiting' && firstStep(cadence)?.id === row.stepId ? [row] : []
  })
  if (!atStart.length) return new Set(enrollmentIds)
  const cadenceIds = [...new Set(atStart.map(({ cadenceId }) => cadenceId))]
  await client.query(
    sql`
      select id
      from cadences
      where id = any($1::uuid[])
      order by id
      for no key update
    `,
    [cadenceIds],
  )
  const { rows: settled } = await client.query<{ id: Id }>(
    sql`
      select id
      from enrollments
      where id = any($1::uuid[]) and intake_day is not null
    `,
    [atStart.map(({ id }) => id)],
  )
  const known = new Set(settled.map(({ id }) => id))
  const today = localDay(state.now, playbook.timeZone)
  const { rows: started } = await client.query<Started>(
    sql`
      select cadence_id as "cadenceId", intake_day::text as day, count(*)::int as count
      from enrollments
      where cadence_id = any($1::uuid[]) and intake_day >= $2
      group by 1, 2
    `,
    [cadenceIds, today],
  )
  const given = cadenceIds.flatMap((cadenceId) => {
    const used = new Map(started.filter((row) => row.cadenceId === cadenceId).map(({ day, count }) => [day, count]))
    const starters = atStart
      .filter((row) => row.cadenceId === cadenceId && !known.has(row.id))
      .map(({ id, prospectId, dueAt }) => ({
        id,
        dueAt: Math.max(dueAt ?? 0, state.now),
        place: placeOf(state.prospect[prospectId]!),
      }))
    const { perDay } = playbook.cadences[cadenceId]!.entry
    return [...allotIntake(starters, perDay!, used, playbook.timeZone, playbook.holidays)]
  })
  await client.query(
    sql`
      with given as (
        select *
        from jsonb_to_recordset($1::jsonb) as r(id uuid, day date, at bigint)
      ),
      moved as (
        update scheduled_actions a
        set at = from_ms(g.at)
        from given g
        where a.ref_id = g.id and g.day > $2
      )
      update enrollments e
      set intake_day = g.day, due_at = case when g.day > $2 then from_ms(g.at) else e.due_at end
      from given g
      where e.id = g.id
    `,
    [JSON.stringify(given.map(([id, { at, day }]) => ({ id, day, at }))), today],
  )
  const later = new Set(given.flatMap(([id, { day }]) => (day > today ? [id] : [])))
  return new Set(enrollmentIds.filter((id) => !later.has(id)))
}

/** Lets those who wait for a day of a cadence that is still to come be counted anew: its daily number has changed. */
export async function recountStarts(client: Db, cadenceId: Id): Promise<void> {
  await client.query(
    sql`
      with put_off as (
        update enrollments e
        set intake_day = null, due_at = world_now()
        from team t
        where e.cadence_id = $1 and e.status = 'waiting'
          and e.intake_day > (world_now() at time zone t.time_zone)::date
        returning e.id
      )
      update scheduled_actions a
      set at = world_now()
      from put_off p
      where a.ref_id = p.id
    `,
    [cadenceId],
  )
}
