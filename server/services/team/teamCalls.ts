import type { z } from 'zod'
import type { Id } from '#core/instant'
import type { teamCalls as listEndpoint } from '#shared/api/team'
import { newId } from '#shared/newId'
import { db } from '../../db/pool'
import { sql } from '../../db/sql'
import { recordEvents } from '../../engine/recordEvents'
import { mustBeOnTeam } from '../access/access'
import type { Viewer } from '../access/viewer'
import { notifyOfCalls } from '../notifications/notifications'

type Answer = z.output<typeof listEndpoint.response>
type Asked = z.output<typeof listEndpoint.query>

const OPEN_CALL = "t.status = 'open' and t.kind in ('call', 'call_back')"
/** Due before today began for who does it, or by the team's clock where nobody does. */
const OVERDUE = `t.due_at < date_trunc('day', world_now() at time zone coalesce(u.time_zone, m.time_zone))
  at time zone coalesce(u.time_zone, m.time_zone)`

/** All open calls of the team, those of one owner, or those that are overdue: first what is due first. */
export async function teamCalls({ ownerId, overdue, limit }: Asked): Promise<Answer> {
  const [calls, owners] = await Promise.all([
    db().query<Answer['calls'][number] & { of: number }>(
      sql`
        select
          t.id, t.prospect_id as "prospectId", btrim(p.first_name || ' ' || p.last_name) as name, c.name as company,
          t.kind, t.title, ms(t.due_at) as "dueAt", ${OVERDUE} as overdue,
          case when u.id is not null then jsonb_build_object('id', u.id, 'name', u.name) end as owner,
          d.name as cadence, count(*) over ()::int as of
        from tasks t
          cross join team m
          join prospects p on p.id = t.prospect_id
          left join companies c on c.id = p.company_id
          left join users u on u.id = t.owner_id
          left join enrollments e on e.id = t.enrollment_id
          left join cadences d on d.id = e.cadence_id
        where ${OPEN_CALL}
          and ($1::uuid is null or t.owner_id = $1)
          and (not $2 or ${OVERDUE})
        order by t.due_at, t.id
        limit $3
      `,
      [ownerId ?? null, overdue === 'yes', limit],
    ),
    db().query<Answer['owners'][number]>(
      sql`
        select
          u.id, u.name, count(*)::int as open, count(*) filter (where ${OVERDUE})::int as overdue
        from tasks t
          cross join team m
          join users u on u.id = t.owner_id
        where ${OPEN_CALL}
        group by u.id, u.name
        order by open desc, u.name
      `,
    ),
  ])
  return {
    calls: calls.rows.map(({ of: _, ...row }) => row),
    total: calls.rows[0]?.of ?? 0,
    owners: owners.rows,
  }
}

const withoutProblems = (results: readonly { problems: readonly unknown[] }[]): number =>
  results.filter(({ problems }) => !problems.length).length

/** Assigns open calls to a user, each as an event; what was done meanwhile is left. */
export async function assignCalls(
  viewer: Viewer,
  { taskIds, to }: { taskIds: readonly Id[]; to: Id },
): Promise<{ assigned: number; left: number }> {
  await mustBeOnTeam(to, db())
  const ids = [...new Set(taskIds)]
  const { rows } = await db().query<{ id: Id; prospectId: Id }>(
    sql`
      select t.id, t.prospect_id as "prospectId"
      from tasks t
      where t.id = any($1::uuid[]) and ${OPEN_CALL} and t.owner_id is distinct from $2
    `,
    [ids, to],
  )
  const { results } = await recordEvents(
    rows.map(({ id: taskId, prospectId }) => ({
      id: newId(),
      kind: 'taskAssigned' as const,
      prospectId,
      actorId: viewer.id,
      causedByEventId: null,
      taskId,
      ownerId: to,
    })),
    { alsoWrite: (client, recorded) => notifyOfCalls(client, to, withoutProblems(recorded.results), viewer.id) },
  )
  const assigned = withoutProblems(results)
  return { assigned, left: ids.length - assigned }
}
