import { manages } from '#core/roles'
import type { z } from 'zod'
import type { Id } from '#core/instant'
import type { bulkToDos as listEndpoint, getBulk as resultEndpoint } from '#shared/api/bulk'
import { db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { notFound } from '../access/errors'
import type { Viewer } from '../access/viewer'

type ByOwner = z.output<typeof resultEndpoint.response>['toDos']
type ToDo = z.output<typeof listEndpoint.response>['toDos'][number]

const OVERDUE = "t.status = 'open' and t.due_at < world_now()"

/** What a bulk action has planned for each owner, and what became of it: most to-dos first. */
export async function toDosByOwner(actionId: Id): Promise<ByOwner> {
  const { rows } = await db().query<ByOwner[number]>(
    sql`
      select
        t.owner_id as "ownerId", u.name as owner, count(*)::int as made,
        count(*) filter (where t.status = 'open')::int as open,
        count(*) filter (where ${OVERDUE})::int as overdue,
        count(*) filter (where t.status = 'done')::int as done,
        count(*) filter (where t.status = 'cancelled')::int as cancelled
      from tasks t
        left join users u on u.id = t.owner_id
      where t.content_id = $1
      group by t.owner_id, u.name
      order by made desc, owner
    `,
    [actionId],
  )
  return rows
}

const MOST = 500

/**
 * The to-dos of one owner that a bulk action has planned, or of nobody, with what became of each. Only who did it, or a
 * manager, reads them.
 */
export async function bulkToDos(
  viewer: Viewer,
  actionId: Id,
  { ownerId }: { ownerId?: Id },
): Promise<{ toDos: ToDo[]; count: number }> {
  const mine = await firstRow(
    db().query(sql`select from bulk_actions where id = $1 and (user_id = $2 or $3)`, [
      actionId,
      viewer.id,
      manages(viewer),
    ]),
  )
  if (!mine) throw notFound('bulk action')
  const { rows } = await db().query<ToDo & { of: number }>(
    sql`
      select
        t.id, t.prospect_id as "prospectId", btrim(p.first_name || ' ' || p.last_name) as name, c.name as company,
        t.status, ms(t.due_at) as "dueAt", ${OVERDUE} as overdue, ms(t.done_at) as "doneAt", logged.outcome,
        count(*) over ()::int as of
      from tasks t
        join prospects p on p.id = t.prospect_id
        left join companies c on c.id = p.company_id
        left join lateral (
          select o.name as outcome
          from events e
            join outcomes o on o.id = (e.payload ->> 'outcomeId')::uuid
          where e.prospect_id = t.prospect_id
            and e.kind in ('callLogged', 'taskDone')
            and e.payload ->> 'taskId' = t.id::text
          order by e.at desc
          limit 1
        ) logged on t.status = 'done'
      where t.content_id = $1 and t.owner_id is not distinct from $2
      order by t.status = 'open' desc, ${OVERDUE} desc, t.done_at desc, name, t.id
      limit ${MOST}
    `,
    [actionId, ownerId ?? null],
  )
  return { toDos: rows.map(({ of: _, ...toDo }) => toDo), count: rows[0]?.of ?? 0 }
}
