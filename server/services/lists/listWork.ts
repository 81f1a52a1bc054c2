import type { TaskKind, TimeZoneSource } from '#core/enumerations'
import { startOfDay } from '#core/calendar/local'
import type { Filter } from '#core/filter/filter'
import { FILTER_FROM, orderSql } from '#core/filter/sql'
import { isCallable } from '#core/calendar/callingHours'
import type { Playbook } from '#core/engine/state/playbook'
import { emptyCounts } from '#core/queue/groupNames'
import { historyInWords, whyInWords } from '#core/queue/why'
import type { Id, Instant } from '#core/instant'
import { db, type Db } from '../../db/pool'
import { Refusal } from '../access/errors'
import { ask, filterWorld, IN_SIGHT, problemsOfList, type FilterWorld, type PeopleQuestion } from './filters'
import { readList } from './listAccess'
import { isCall, opening } from './queueHours'
import { countedFrom } from './touchGoals'
import type { Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'
import { stepCount } from '../../db/stepVersions'

/** Who was dealt with on list $l since $s, as a condition on the person `p`; what was taken back does not count. */
export const handledSince = (
  list: string,
  since: string,
) => `exists (select from handled_prospects w where w.list_id = ${list} and w.prospect_id = p.id and w.at >= ${since}
  and not exists (select from events u where u.kind = 'undone' and u.payload ->> 'targetId' = w.event_id::text))`

/** Keeps that someone was dealt with while a list was worked, together with what was done. */
export async function markHandled(client: Db, viewer: Viewer, listId: Id, prospectId: Id, eventId: Id): Promise<void> {
  await readList(viewer, listId, { client })
  await client.query(
    sql`
      insert into handled_prospects (list_id, prospect_id, user_id, at, event_id)
      values ($1, $2, $3, world_now(), $4)
      on conflict do nothing
    `,
    [listId, prospectId, viewer.id, eventId],
  )
}

interface OnList {
  prospectId: Id
  name: string
  company: string | null
  timeZone: string
  timeZoneFrom: TimeZoneSource
  country: string | null
  region: string | null
  taskId: Id | null
  kind: TaskKind | null
  priority: number
  title: string | null
  dueAt: Instant | null
  step: number | null
  steps: number | null
  attempts: number
  reached: boolean
}

/** Someone one may still sell to: neither their stage nor their company is closed. */
const STILL_OPEN = `coalesce(c.status, 'open') not in ('not_a_fit', 'do_not_contact')
      and not exists (select from stages x where x.id = p.stage_id and x.kind = 'closed')`

interface StoredOrder {
  sort: { field: string; down: boolean } | null
  hasGoal: boolean
  kinds: string[]
}

/**
 * The order in which a list is worked, as SQL over FILTER_FROM with the company: as it is sorted, else as its touch
 * goal falls due, else longest untouched first. Values go through the question.
 */
export async function orderOfList(listId: Id, world: FilterWorld, question: PeopleQuestion): Promise<string> {
  const stored = await firstRow(
    db().query<StoredOrder>(
      sql`
        select sort, touch_every is not null as "hasGoal", touch_kinds as kinds
        from lists
        where id = $1
      `,
      [listId],
    ),
  )
  const field = stored?.sort && world.fields.get(stored.sort.field)
  const key = field && orderSql(field, question)
  if (key) return `${key.sql} ${stored.sort!.down ? 'desc' : 'asc'} nulls last`
  return stored?.hasGoal ? countedFrom(stored.kinds) : 'p.last_touch_at asc nulls first'
}

/** How many people of a list are looked through for those who can be reached now. */
const LOOKED_AT = 500

/**
 * The people of a list as work for the Desk, in the list's order: as it is sorted, else as its touch goal falls due,
 * else longest untouched first. They are those who can be called now and have not been dealt with today, while the list
 * was worked or elsewhere (called, texted or met by one of us with nothing more due), each with the task that is due,
 * if any.
 */
export async function queueOfList(viewer: Viewer, listId: Id, limit: number, now: Instant, book: Playbook) {
  const list = await readList(viewer, listId)
  const world = await filterWorld(viewer)
  const broken = problemsOfList(list.filter as Filter | null, world)
  if (broken.length) throw new Refusal('refused', `This list cannot be read as it is. ${broken.join('. ')}`)
  const question = ask(viewer, { field: 'lists', test: { op: 'hasAny', values: [listId] } }, world)
  const order = await orderOfList(listId, world, question)
  const since = question.parameter(new Date(startOfDay(now, world.timeZone)))
  const { rows } = await db().query<OnList>(
    sql`
      select
        p.id as "prospectId", btrim(p.first_name || ' ' || p.last_name) as name, c.name as company,
        p.time_zone as "timeZone",
        p.time_zone_from as "timeZoneFrom", p.country, p.region, t.id as "taskId", t.kind, coalesce(t.priority,
        2) as priority,
        t.title, ms(t.due_at) as "dueAt",
        (${stepCount('before')})::int + 1 as step,
        nullif(
          (${stepCount('all')}), 0
        )::int as steps, p.attempts, p.conversations > 0 as reached
      from ${FILTER_FROM}
        left join lateral (
          select *
          from tasks t
          where t.prospect_id = p.id and t.status = 'open' and t.due_at <= ${question.parameter(new Date(now))}
          order by t.priority, t.due_at, t.id
          limit 1
        ) t on true
        left join cadence_steps s on s.id = t.step_id
      where ${question.where}${question.showsRemoved ? '' : IN_SIGHT}
        and not (p.stop_call and p.stop_email)
        and ${STILL_OPEN}
        and not ${handledSince(`${question.parameter(listId)}::uuid`, since)}
        and (
          t.id is not null
            or not exists (
              select
              from touches k
              where k.prospect_id = p.id
                and k.at >= ${since}
                and k.user_id is not null
                and k.kind in ('call', 'text', 'meeting')
            )
        )
      order by ${order}, p.id
      limit ${LOOKED_AT}
    `,
    question.values,
  )
  const items = rows.map((row) => {
    const rings = row.kind === null || isCall(row.kind)
    const inCadence = row.taskId && row.steps ? { step: row.step!, steps: row.steps } : null
    return {
      taskId: row.taskId,
      prospectId: row.prospectId,
      name: row.name,
      company: row.company,
      kind: row.kind ?? ('call' as const),
      dueAt: row.dueAt ?? now,
      timeZone: row.timeZone,
      slope: inCadence,
      priority: null,
      ...(!rings || isCallable(now, book.callHours, row, book.holidays)
        ? { group: 'due' as const, opensAt: null, waitsFor: null }
        : { group: 'later' as const, ...opening({ ...row, kind: 'call', dueAt: now }, now, book) }),
      why: row.taskId
        ? whyInWords(
            {
              kind: row.kind!,
              title: row.title!,
              dueAt: row.dueAt!,
              step: inCadence?.step ?? null,
              steps: inCadence?.steps ?? null,
              attempts: row.attempts,
              everReached: row.reached,
            },
            now,
          )
        : historyInWords({ everReached: row.reached, attempts: row.attempts }),
    }
  })
  const open = items.filter((item) => item.group === 'due')
  return {
    list: { id: listId, name: list.name },
    items: [...open.slice(0, limit), ...items.filter((item) => item.group === 'later').slice(0, limit)],
    priorities: [],
    counts: { ...emptyCounts(), due: open.length, later: items.length - open.length },
    now,
    opensNext: null,
  }
}
