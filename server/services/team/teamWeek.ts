import type { Role } from '#core/enumerations'
import { manages } from '#core/roles'
import { stringify } from 'csv-stringify/sync'
import { isBusinessDay, localDay, startOfDay } from '#core/calendar/local'
import type { Id, Instant } from '#core/instant'
import { sum, WEEK_LABELS, WEEK_MEASURES, weekDays, type WeekMeasure } from '#core/stats/week'
import { CSV, harmless } from '#core/imports/columns'
import { db, transaction } from '../../db/pool'
import { currentPlaybook } from '../../engine/playbook'
import { limitedTo, visible } from '../access/access'
import { notFound } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { listSources } from '../fields/sources'
import { firstRow, sql } from '../../db/sql'

/**
 * Everything that is counted, one row each, by who did it: $1 are the users, from $2 to before $3. A reply counts for
 * who sent the email it answers, else for the owner; a meeting is booked by who logged it; a cancelled one is none.
 */
const FACTS = sql`
  select t.user_id as who, t.at, 'calls' as measure, t.prospect_id, null::numeric as value
  from touches t
  where t.kind = 'call' and t.user_id = any($1::uuid[]) and t.at >= $2 and t.at < $3
  union all
  select t.user_id, t.at, 'conversations', t.prospect_id, null
  from touches t
  where t.kind = 'call'
    and t.counts_as = 'conversation'
    and t.user_id = any($1::uuid[])
    and t.at >= $2
    and t.at < $3
  union all
  select t.user_id, t.at, 'emails', t.prospect_id, null
  from touches t
  where t.kind = 'email' and t.user_id = any($1::uuid[]) and t.at >= $2 and t.at < $3
  union all
  select coalesce(m.sender_id, p.owner_id), t.at, 'replies', t.prospect_id, null
  from touches t
    join prospects p on p.id = t.prospect_id
    left join email_messages m on m.id = t.message_id
  where t.kind = 'reply'
    and t.user_id is null
    and coalesce(m.sender_id, p.owner_id) = any($1::uuid[])
    and t.at >= $2
    and t.at < $3
  union all
  select a.user_id, a.booked_at, 'booked', a.prospect_id, null
  from meetings a
  where a.status <> 'cancelled' and a.user_id = any($1::uuid[]) and a.booked_at >= $2 and a.booked_at < $3
  union all
  select a.user_id, a.start_at, 'held', a.prospect_id, null
  from meetings a
  where a.status = 'held' and a.user_id = any($1::uuid[]) and a.start_at >= $2 and a.start_at < $3
  union all
  select d.owner_id, d.opened_at, 'opened', d.prospect_id, d.value
  from deals d
  where d.owner_id = any($1::uuid[]) and d.opened_at >= $2 and d.opened_at < $3
  union all
  select d.owner_id, d.closed_at, 'won', d.prospect_id, d.value
  from deals d
  where d.status = 'won' and d.owner_id = any($1::uuid[]) and d.closed_at >= $2 and d.closed_at < $3
`

interface Counted {
  who: Id
  day: number
  measure: WeekMeasure
  count: number
  value: number
}
interface UserRow {
  id: Id
  name: string
  role: Role
  active: boolean
  calls: number
  conversations: number
  booked: number
  overdue: number
}

/** Whose work the viewer sees: their own, or everyone's for managers. */
async function usersOf(viewer: Viewer, today: Instant): Promise<UserRow[]> {
  const { rows } = await db().query<UserRow>(
    sql`
      select
        u.id, u.name, u.role, u.active, u.daily_calls as calls, u.daily_conversations as conversations,
        u.daily_meetings as booked,
        (select count(*) from tasks t where t.owner_id = u.id and t.status = 'open' and t.due_at < $3)::int as
          overdue
      from users u
      where u.id = $1 or $2
      order by lower(u.name), u.id
    `,
    [viewer.id, manages(viewer), new Date(today)],
  )
  return rows
}

interface TeamRow {
  now: Instant
  timeZone: string
  country: string
  days: number[]
}

/**
 * What each user did in a week, by day, beside the week before and the goals. Weeks and days are those of the team's
 * zone.
 */
export async function teamWeek(viewer: Viewer, { back }: { back: number }) {
  const team = await firstRow(
    db().query<TeamRow>(
      sql`select ms(world_now()) as now, time_zone as "timeZone", country, call_days as days from team`,
    ),
  )
  const { now, timeZone, country } = team!
  const days = weekDays(now, timeZone, back)
  const before = weekDays(now, timeZone, back + 1)[0]!
  const today = startOfDay(now, timeZone)
  const [users, { holidays }] = await Promise.all([usersOf(viewer, today), currentPlaybook(db())])
  const { rows } = await db().query<Counted>(
    sql`
      select
        who, width_bucket(at, $4::timestamptz[])::int as day, measure, count(*)::int as count,
        coalesce(sum(value), 0)::float8 as value
      from (${FACTS}) facts
      group by 1, 2, 3
    `,
    [users.map((user) => user.id), new Date(before), new Date(days[7]!), days.map((at) => new Date(at))],
  )
  const found = users.map((user) => {
    const own = rows.filter((row) => row.who === user.id)
    const counts = (measure: WeekMeasure) =>
      Array.from(
        { length: 7 },
        (_, day) => own.find((row) => row.measure === measure && row.day === day + 1)?.count ?? 0,
      )
    const earlier = (measure: WeekMeasure) => own.find((row) => row.measure === measure && row.day === 0)?.count ?? 0
    const worth = (inWeek: boolean) =>
      sum(own.filter((row) => row.measure === 'won' && row.day > 0 === inWeek).map((row) => row.value))
    const { id, name, role, active, overdue, calls, conversations, booked } = user
    return {
      id,
      name,
      role,
      active,
      overdue,
      goals: { calls, conversations, booked },
      wonValue: worth(true),
      wonValueBefore: worth(false),
      week: Object.fromEntries(WEEK_MEASURES.map((measure) => [measure, counts(measure)])) as Record<
        WeekMeasure,
        number[]
      >,
      before: Object.fromEntries(WEEK_MEASURES.map((measure) => [measure, earlier(measure)])) as Record<
        WeekMeasure,
        number
      >,
    }
  })
  // Who has left is shown for the weeks they worked in; a manager who calls nobody is not.
  const worked = (user: (typeof found)[number]) =>
    WEEK_MEASURES.some((measure) => user.before[measure] + sum(user.week[measure]) > 0)
  const shown = found.filter((user) => (user.active && !manages(user)) || !manages(viewer) || worked(user))
  const workingDays = days
    .slice(0, 7)
    .map(
      (at, index) =>
        team!.days.includes(index + 1) && isBusinessDay(localDay(at, timeZone), { country, region: null }, holidays),
    )
  return { days, timeZone, today, workingDays, users: shown.map(({ active: _, role: __, ...user }) => user) }
}

/** The most people that are listed behind a number. */
const MOST_LISTED = 500

interface WeekPersonRow {
  prospectId: Id
  name: string
  company: string | null
  by: string
  at: Instant
  value: number | null
  all: number
}

/** The people behind a number of the week, the latest first; those the viewer may see. */
export async function weekPeople(
  viewer: Viewer,
  asked: { user?: Id; measure: WeekMeasure | 'overdue'; from: Instant; to: Instant },
) {
  if (!manages(viewer) && asked.user && asked.user !== viewer.id) throw notFound('user')
  const users = await db().query<{ id: Id }>(
    sql`select id from users where ($1::uuid is null and ($3 or id = $2)) or id = $1`,
    [asked.user ?? null, viewer.id, manages(viewer)],
  )
  const facts =
    asked.measure === 'overdue'
      ? sql`
        select t.owner_id as who, t.due_at as at, 'overdue' as measure, t.prospect_id, null::numeric as value
        from tasks t
        where t.owner_id = any($1::uuid[]) and t.status = 'open' and t.due_at >= $2 and t.due_at < $3
      `
      : FACTS
  const { rows } = await db().query<WeekPersonRow>(
    sql`
      select
        p.id as "prospectId", btrim(p.first_name || ' ' || p.last_name) as name, c.name as company, u.name as by,
        ms(f.at) as at, f.value::float8 as value, count(*) over ()::int as all
      from (${facts}) f
        join prospects p on p.id = f.prospect_id
        left join companies c on c.id = p.company_id
        join users u on u.id = f.who
      where f.measure = $4 and ${visible('p', '$5')}
      order by f.at desc, p.id
      limit ${MOST_LISTED}
    `,
    [users.rows.map((user) => user.id), new Date(asked.from), new Date(asked.to), asked.measure, limitedTo(viewer)],
  )
  return { people: rows.map(({ all: _, ...row }) => row), more: (rows[0]?.all ?? 0) - rows.length }
}

/** Sets the goals of a day for users. Throws where there is no such user. */
export async function setGoals(
  users: readonly { id: Id; goals: { calls: number; conversations: number; booked: number } }[],
): Promise<void> {
  await transaction(async (client) => {
    const { rowCount } = await client.query(
      sql`
        update users u
        set
          daily_calls = r.calls, daily_conversations = r.conversations, daily_meetings = r.booked,
          version = u.version + 1
        from jsonb_to_recordset($1::jsonb) as r(id uuid, calls int, conversations int, booked int)
        where u.id = r.id
      `,
      [JSON.stringify(users.map(({ id, goals }) => ({ id, ...goals })))],
    )
    if (rowCount !== new Set(users.map((user) => user.id)).size) throw notFound('user')
  })
}

/** The week as a CSV file: a row for each user and day, numbers as they are. */
export async function weekCsv(viewer: Viewer, { back }: { back: number }): Promise<string> {
  const { days, timeZone, users } = await teamWeek(viewer, { back })
  const rows = users.flatMap((user) =>
    days
      .slice(0, 7)
      .map((at, day) => [
        harmless(user.name),
        localDay(at, timeZone),
        ...WEEK_MEASURES.map((measure) => user.week[measure][day]),
      ]),
  )
  return `\uFEFF${stringify([['rep', 'day', ...WEEK_MEASURES.map((measure) => WEEK_LABELS[measure])], ...rows], CSV)}`
}

/** What each source brought, as a CSV file; money in the team's currency. */
export async function sourcesCsv(): Promise<string> {
  const { sources } = await listSources()
  const rows = sources.map((one) => [
    harmless(one.name),
    one.cost,
    one.people,
    one.reached,
    one.meetings,
    one.opened,
    one.deals,
    one.wonValue,
  ])
  return `\uFEFF${stringify([['source', 'cost', 'people', 'reached', 'with a meeting', 'deals opened', 'deals won', 'won value'], ...rows], CSV)}`
}
