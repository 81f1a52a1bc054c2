import type { NotificationKind } from '#core/enumerations'
import type { Id, Instant } from '#core/instant'
import type { Notification } from '#shared/api/notifications'
import { showPhone } from '#core/text/phone'
import { newId } from '#shared/newId'
import { db, type Db } from '../../db/pool'
import { sql } from '../../db/sql'
import { limitedTo, visible } from '../access/access'
import type { Viewer } from '../access/viewer'

/** How many are shown at once. */
const PAGE = 50
/** A bulk action of so many is worth a notification; of fewer, the result is there while one looks. */
const MANY = 100
/** So much of a text is shown. */
const TEXT_SHOWN = 120

interface NotificationRow {
  ids: Id[]
  kind: NotificationKind
  at: Instant
  position: number
  read: boolean
  count: number
  prospectId: Id | null
  prospect: string | null
  refId: Id | null
  by: string | null
  outcome: string | null
  file: string | null
  block: string | null
  form: string | null
  /** Of a text from an unknown number: which, and what it says. */
  number: string | null
  text: string | null
}

/** What a notification is counted as: emails that could not go are one a day. */
const GROUP = `case when n.kind = 'email_failed' then 'email ' || date_trunc('day', n.at)::text else n.id::text end`

/** $1 user, $2 whose prospects they may see alone. */
const LIST_SQL = (where: string) => sql`
  with grouped as (
    select
      ${GROUP} as key,
      n.kind, array_agg(n.id) as ids, max(n.at) as at, max(n.position) as position,
      bool_and(n.read_at is not null) as read,
      sum(n.count)::int as count, (array_agg(n.prospect_id))[1] as prospect_id, (array_agg(n.ref_id))[1] as ref_id,
      (array_agg(n.by_id))[1] as by_id
    from notifications n
    where n.user_id = $1
    group by key, n.kind
  )
  select
    g.ids, g.kind, ms(g.at) as at, g.position, g.read, g.count, g.ref_id as "refId", u.name as by, o.name as outcome,
    f.file_name as file, k.name as block, w.name as form, x.number, x.body as text,
    case when ${visible('p', '$2')} then p.id end as "prospectId",
    case when ${visible('p', '$2')} then btrim(p.first_name || ' ' || p.last_name) end as prospect
  from grouped g
    left join text_messages x on x.id = g.ref_id
    left join prospects p on p.id = coalesce(g.prospect_id, x.prospect_id)
    left join users u on u.id = g.by_id
    left join outcomes o on o.id = g.ref_id
    left join imports f on f.id = g.ref_id
    left join call_blocks k on k.id = g.ref_id
    left join forms w on w.id = g.ref_id
  where ${where}
  order by g.at desc, g.position desc
  limit ${PAGE + 1}
`
const NEWEST_SQL = LIST_SQL('true')
const OLDER_SQL = LIST_SQL('(g.at, g.position) < (from_ms($3), $4)')

/** A notification as a sentence, and where it leads. */
function inWords(row: NotificationRow): { sentence: string; to: string | null } {
  const { kind, count, prospectId, refId } = row
  const prospect = row.prospect ?? 'a prospect'
  const by = row.by ?? 'Uphill'
  const page = prospectId && `/prospects/${prospectId}`
  const many = (noun: string) => `${count.toLocaleString('en-US')} ${noun}${count === 1 ? '' : 's'}`
  switch (kind) {
    case 'reply':
      return { sentence: `${row.prospect ?? 'A prospect'} replied`, to: page }
    case 'handed_over':
      if (page) return { sentence: `${by} assigned ${prospect} to you`, to: page }
      return { sentence: `${by} assigned ${many('prospect')} to you`, to: '/prospects?filter=owner%20is%20me' }
    case 'calls_assigned':
      return { sentence: `${by} assigned ${many('call')} to you`, to: '/' }
    case 'call_block':
      return {
        sentence: `${by} handed you the call block “${row.block ?? 'deleted'}”, ${many('prospect')}`,
        to: refId && `/blocks/${refId}`,
      }
    case 'outcome':
      return { sentence: `${by} logged “${row.outcome ?? 'an outcome'}” with ${prospect}`, to: page }
    case 'form_sent':
      return { sentence: `${row.prospect ?? 'A prospect'} sent the form “${row.form}”`, to: page }
    case 'missed_call':
      return { sentence: `Missed call from ${prospect}`, to: page }
    case 'unknown_text': {
      if (row.number === null) return { sentence: 'A text that was deleted since', to: null }
      const said = `“${row.text!.slice(0, TEXT_SHOWN)}”`
      if (page) return { sentence: `Text from ${prospect}: ${said}`, to: page }
      return {
        sentence: `Text from ${showPhone(row.number, null)}, a number nobody here has: ${said}`,
        to: `/prospects?add=${encodeURIComponent(row.number)}`,
      }
    }
    case 'email_failed':
      if (count > 1) return { sentence: `${many('email')} could not be sent`, to: '/problems' }
      return { sentence: `An email to ${prospect} could not be sent`, to: page ?? '/problems' }
    case 'bulk':
      return { sentence: `Bulk action done: ${many('prospect')} changed`, to: '/changes' }
    case 'import':
      return { sentence: `Import of ${row.file ?? 'a file'} done: ${many('prospect')}`, to: `/imports/${refId}` }
  }
}

/** A user's notifications, newest first; `before` is where the page before ended. */
export async function listNotifications(
  viewer: Viewer,
  before: string | null,
  on: Db = db(),
): Promise<{ notifications: Notification[]; next: string | null }> {
  const values = [viewer.id, limitedTo(viewer)]
  const { rows } = await on.query<NotificationRow>(
    before === null
      ? { name: 'notifications', text: NEWEST_SQL, values }
      : { name: 'notifications-older', text: OLDER_SQL, values: [...values, ...before.split('_').map(Number)] },
  )
  const shown = rows.slice(0, PAGE)
  const last = shown.at(-1)
  return {
    notifications: shown.map((row) => {
      const { ids, kind, at, read } = row
      return { ids, kind, at, read, ...inWords(row) }
    }),
    next: rows.length > PAGE && last ? `${last.at}_${last.position}` : null,
  }
}

/** How many notifications a user has not read. */
export async function unreadCount(userId: Id): Promise<number> {
  const { rows } = await db().query<{ count: number }>({
    name: 'notifications-unread',
    text: sql`
      select count(distinct ${GROUP})::int as count
      from notifications n
      where n.user_id = $1 and n.read_at is null
    `,
    values: [userId],
  })
  return rows[0]!.count
}

/** Marks notifications of the viewer as read or unread, those named or all of them. */
export async function markNotifications(viewer: Viewer, ids: readonly Id[] | null, read: boolean): Promise<void> {
  await db().query(
    sql`
      update notifications
      set read_at = case when $3 then coalesce(read_at, now()) end
      where user_id = $1 and ($2::uuid[] is null or id = any($2::uuid[]))
    `,
    [viewer.id, ids, read],
  )
}

/** Lets new owners know of prospects that were assigned to them, but for who did it. */
async function notifyOwners(
  client: Db,
  owners: readonly { ownerId: Id; count: number }[],
  { byId, refId }: { byId: Id; refId: Id | null },
  prospectId: Id | null = null,
): Promise<void> {
  const others = owners.filter(({ ownerId }) => ownerId !== byId)
  if (!others.length) return
  await client.query(
    sql`
      insert into notifications (id, user_id, kind, prospect_id, ref_id, by_id, count, at)
      select gen_random_uuid(), o.owner, 'handed_over', $3, $4, $5, o.count, world_now()
      from unnest($1::uuid[], $2::int[]) as o(owner, count)
    `,
    [others.map((one) => one.ownerId), others.map((one) => one.count), prospectId, refId, byId],
  )
}

/** Lets a new owner know of one prospect. */
export async function notifyOwner(client: Db, prospectId: Id, ownerId: Id, byId: Id): Promise<void> {
  await notifyOwners(client, [{ ownerId, count: 1 }], { byId, refId: null }, prospectId)
}

/** Says that a bulk action is done: to who started it, and to those whom it assigned prospects to. */
export async function notifyOfBulk(client: Db, actionId: Id): Promise<void> {
  const { rows } = await client.query<{ userId: Id; done: number; type: string }>(
    sql`select user_id as "userId", done, action ->> 'type' as type from bulk_actions where id = $1`,
    [actionId],
  )
  const { userId, done, type } = rows[0]!
  if (done >= MANY) await notifyDone(client, userId, 'bulk', actionId, done)
  if (type !== 'assign' && type !== 'assignToCompanyOwner') return
  const { rows: owners } = await client.query<{ ownerId: Id; count: number }>(
    sql`
      select p.owner_id as "ownerId", count(*)::int as count
      from bulk_people b
        join prospects p on p.id = b.prospect_id
      where b.action_id = $1 and b.done and b.reason is null and p.owner_id is not null
      group by p.owner_id
    `,
    [actionId],
  )
  await notifyOwners(client, owners, { byId: userId, refId: actionId })
}

/** Says that an import is done: to who started it, and to the owners of the new prospects. */
export async function notifyOfImport(client: Db, importId: Id, userId: Id, count: number): Promise<void> {
  if (count) await notifyDone(client, userId, 'import', importId, count)
  const { rows: owners } = await client.query<{ ownerId: Id; count: number }>(
    sql`
      select owner_id as "ownerId", count(*)::int as count
      from prospects
      where import_id = $1 and owner_id is not null and merged_into is null
      group by owner_id
    `,
    [importId],
  )
  await notifyOwners(client, owners, { byId: userId, refId: importId })
}

async function notifyDone(client: Db, userId: Id, kind: 'bulk' | 'import', refId: Id, count: number): Promise<void> {
  await client.query(
    sql`
      insert into notifications (id, user_id, kind, ref_id, by_id, count, at)
      values ($1, $2, $3, $4, $2, $5, world_now())
    `,
    [newId(), userId, kind, refId, count],
  )
}

/** Lets a user know of calls that were assigned to them, unless they did it themselves. */
export async function notifyOfCalls(client: Db, userId: Id, count: number, byId: Id): Promise<void> {
  if (!count || userId === byId) return
  await client.query(
    sql`
      insert into notifications (id, user_id, kind, by_id, count, at)
      values ($1, $2, 'calls_assigned', $3, $4, world_now())
    `,
    [newId(), userId, byId, count],
  )
}

/** Lets every manager know of a text from a number that nobody here has. */
export async function notifyOfUnknownText(client: Db, messageId: Id): Promise<void> {
  await client.query(
    sql`
      insert into notifications (id, user_id, kind, ref_id, at)
      select gen_random_uuid(), id, 'unknown_text', $1, world_now()
      from users
      where active and role in ('manager', 'admin')
    `,
    [messageId],
  )
}

/** Notifies callers of a block that was handed to them, but not who handed it over. */
export async function notifyCallers(
  client: Db,
  blockId: Id,
  userIds: readonly Id[],
  count: number,
  byId: Id,
): Promise<void> {
  if (!count) return
  await client.query(
    sql`
      insert into notifications (id, user_id, kind, ref_id, by_id, count, at)
      select gen_random_uuid(), id, 'call_block', $1, $3, $4, world_now()
      from unnest($2::uuid[]) as u(id)
      where id <> $3
    `,
    [blockId, userIds, byId, count],
  )
}
