import { manages } from '#core/roles'
import type { z } from 'zod'
import { projectQueue, type QueuedEmail } from '#core/cadence/allot'
import type { QueueReason } from '#core/enumerations'
import type { Id, Instant } from '#core/instant'
import type { listEmailQueue as endpoint } from '#shared/api/email/sending'
import { newId } from '#shared/newId'
import { domainOf, TO_MANY } from '../../channels/mail/dispatch'
import { readSenders } from '../../channels/mail/senders'
import { db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { currentPlaybook } from '../../engine/playbook'
import { recordEvents } from '../../engine/recordEvents'
import type { Viewer } from '../access/viewer'

/** How many emails are looked at, and for how many of a sender it is worked out when they leave. */
const LOOKED_AT = 20_000
const PROJECTED = 5_000

type Asked = z.output<typeof endpoint.query>
type Row = z.output<typeof endpoint.response>['emails'][number] & {
  place: { timeZone: string; country: string | null; region: string | null }
  address: string
  wantsSlot: boolean
}

// Emails whose cadence is paused are in no calendar: they come last, and those that wait for a person.
const QUEUE_SQL = sql`
  select
    m.id, 'email' as kind,
    json_build_object('id', p.id, 'name', btrim(p.first_name || ' ' || p.last_name), 'company', co.name) as prospect,
    case when u.id is not null then json_build_object('id', u.id, 'name', u.name) end as sender,
    case when c.id is not null then json_build_object('id', c.id, 'name', c.name) end as cadence,
    coalesce(nullif(m.subject, ''), nullif(s.subject, ''), 'Re: the email before it') as subject,
    case
      when m.status = 'held' then 'detail'
      when m.status = 'unconfirmed' then 'unknown'
      when a.ref_id is null then 'paused'
      when m.attempts > 0 and m.last_error is not null then 'retry'
      when m.waits_for is not null then m.waits_for
      when a.at <= world_now() then null
      when m.kind = 'step' then 'window'
      else 'time'
    end as why,
    ms(a.at) as at,
    json_build_object('timeZone', p.time_zone, 'country', p.country, 'region', p.region) as place, e.address,
    -- Whether it has still to ask for its moment.
    m.status = 'queued' and m.kind in ('step', 'bulk') and not m.slotted and a.ref_id is not null as "wantsSlot",
    a.at as "order", a.first_at as "first"
  from email_messages m
    join prospects p on p.id = m.prospect_id
    join email_addresses e on e.id = m.email_address_id
    left join companies co on co.id = p.company_id
    left join users u on u.id = m.sender_id
    left join enrollments n on n.id = m.enrollment_id
    left join cadences c on c.id = n.cadence_id
    left join cadence_steps s on s.id = m.step_id
    left join scheduled_actions a on a.ref_id = m.id and a.set_aside_at is null
  where m.status in ('queued', 'held', 'unconfirmed')
    and ($1::uuid is null or m.sender_id = $1)
  union all
  select
    t.id, 'task',
    json_build_object('id', p.id, 'name', btrim(p.first_name || ' ' || p.last_name), 'company', co.name),
    case when u.id is not null then json_build_object('id', u.id, 'name', u.name) end,
    json_build_object('id', c.id, 'name', c.name), coalesce(nullif(s.subject, ''), 'Re: the email before it'),
    'review', null, null, '', false, null, null
  from tasks t
    join enrollments n on n.id = t.enrollment_id and n.status <> 'ended'
    join cadences c on c.id = n.cadence_id
    join cadence_steps s on s.id = n.step_id and s.kind = 'email' and s.review
    join prospects p on p.id = t.prospect_id
    left join companies co on co.id = p.company_id
    left join users u on u.id = t.owner_id
  where t.status = 'open'
    and t.kind = 'email'
    and ($1::uuid is null or t.owner_id = $1)
  order by "order", "first", id
  limit $2
`

/** Everything that waits to be sent, each with when it will leave as the queue stands, and what it waits for. */
export async function listEmailQueue(viewer: Viewer, asked: Asked) {
  const mine = !manages(viewer) ? viewer.id : null
  const [{ rows }, book, clock] = await Promise.all([
    db().query<Row>(QUEUE_SQL, [mine, LOOKED_AT]),
    currentPlaybook(db()),
    firstRow(db().query<{ now: Instant }>(sql`select ms(world_now()) as now`)),
  ])
  const { now } = clock!
  const senders = new Map(await readSenders(db(), [...new Set(rows.flatMap(({ sender }) => sender?.id ?? []))]))
  const leaves: Record<Id, Instant> = {}
  for (const [senderId, sender] of senders) {
    const queue = rows.filter((row) => row.wantsSlot && row.sender?.id === senderId).slice(0, PROJECTED)
    const emails = queue.map(({ id, cadence, place, address, at }): QueuedEmail => {
      const window = cadence && book.cadences[cadence.id]?.window
      const wanted = window ? { window } : { window: TO_MANY, later: book.defaultWindow }
      return { id, place, domain: domainOf(address), at: at ?? now, ...wanted }
    })
    Object.assign(leaves, projectQueue(emails, sender, now, book.holidays))
  }
  const fits = (row: Row, ignoreWhy = false): boolean =>
    (!asked.senderId || row.sender?.id === asked.senderId) &&
    (!asked.cadenceId || row.cadence?.id === asked.cadenceId) &&
    (ignoreWhy || !asked.why || row.why === asked.why)
  const reasons: Partial<Record<QueueReason, number>> = {}
  for (const { why } of rows.filter((row) => fits(row, true))) if (why) reasons[why] = (reasons[why] ?? 0) + 1
  const found = rows.filter((row) => fits(row))
  // What has still to ask for its moment has the one that was worked out; nothing else is known of it.
  const leavesAt = ({ id, wantsSlot, sender, at }: Row): Instant | null =>
    leaves[id] ?? (wantsSlot && sender && senders.has(sender.id) ? null : at)
  const order = ({ at }: { at: Instant | null }): number => at ?? Number.MAX_SAFE_INTEGER
  const emails = found
    .map((row) => {
      const { place: _place, address: _address, wantsSlot: _wants, ...email } = row
      return { ...email, at: leavesAt(row) }
    })
    .sort((a, b) => order(a) - order(b))
  return { now, total: found.length, reasons, emails: emails.slice(0, asked.limit) }
}

/** Cancels emails of the viewer's (a manager: of anyone) that still wait; cadences go on without them. */
export async function cancelEmails(viewer: Viewer, ids: readonly Id[]): Promise<{ cancelled: number; left: number }> {
  const { rows } = await db().query<{ id: Id; prospectId: Id }>(
    sql`
      select id, prospect_id as "prospectId"
      from email_messages
      where id = any($1::uuid[])
        and status = 'queued'
        and ($2::uuid is null or sender_id = $2)
    `,
    [ids, !manages(viewer) ? viewer.id : null],
  )
  if (!rows.length) return { cancelled: 0, left: new Set(ids).size }
  const about = { actorId: viewer.id, causedByEventId: null, why: 'Canceled in the email queue' }
  await recordEvents(
    rows.map(({ id, prospectId }) => ({
      ...about,
      id: newId(),
      prospectId,
      kind: 'emailStopped' as const,
      messageId: id,
    })),
  )
  const after = await firstRow(
    db().query<{ count: number }>(
      sql`select count(*)::int as count from email_messages where id = any($1::uuid[]) and status = 'cancelled'`,
      [rows.map(({ id }) => id)],
    ),
  )
  return { cancelled: after!.count, left: new Set(ids).size - after!.count }
}
