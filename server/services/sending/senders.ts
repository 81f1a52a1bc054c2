import { manages } from '#core/roles'
import { capOf, onDay } from '#core/cadence/allot'
import type { Id, Instant } from '#core/instant'
import type { EmailSender } from '#shared/api/email/sending'
import { readSenders } from '../../channels/mail/senders'
import { db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { notFound } from '../access/errors'
import type { Viewer } from '../access/viewer'

interface SenderRow extends Omit<EmailSender, 'capToday' | 'sentToday' | 'daysSent' | 'ramp'> {
  first: number | null
  more: number | null
  now: Instant
}

/** How email of each active user is sent, and what they have used of it today; for a rep their own. */
export async function listSenders(viewer: Viewer): Promise<{ senders: EmailSender[] }> {
  const { rows } = await db().query<SenderRow>(
    sql`
      select
        u.id, u.name, u.email, u.signature, u.daily_email_cap as cap, u.email_spacing_seconds as spacing,
        u.email_jitter as jitter, u.email_domain_cap as "domainCap", u.email_ramp_first as first,
        u.email_ramp_more as more, ms(world_now()) as now,
        (
          select count(*)::int
          from email_messages m
          where m.sender_id = u.id and m.status = 'queued' and m.kind in ('step', 'bulk')
        ) as waiting
      from users u
      where u.active
        and ($1::uuid is null or u.id = $1)
      order by u.name, u.id
    `,
    [!manages(viewer) ? viewer.id : null],
  )
  const known = new Map(
    await readSenders(
      db(),
      rows.map(({ id }) => id),
    ),
  )
  return {
    senders: rows.map(({ first, more, now, ...row }) => {
      const ramp = first === null ? null : { first, more: more! }
      const state = known.get(row.id)
      const today = state ? onDay(state, now) : { given: 0, daysSent: 0 }
      const { daysSent } = today
      return {
        ...row,
        ramp,
        daysSent,
        capToday: capOf({ cap: row.cap, ramp, daysSent }),
        sentToday: today.given,
      }
    }),
  }
}

/** Changes how a user's email is sent. A slow start that is turned on begins with its first day. */
export async function editSender(
  userId: Id,
  { cap, spacing, jitter, domainCap, ramp }: Pick<EmailSender, 'cap' | 'spacing' | 'jitter' | 'domainCap' | 'ramp'>,
): Promise<void> {
  const row = await firstRow(
    db().query(
      sql`
        with before as (
          select id, email_ramp_first is null as fast
          from users
          where id = $1
          for update
        ),
        begun as (
          update email_senders s
          set days_sent = 0
          from before b
          where s.user_id = b.id and b.fast and $6::int is not null
        ),
        -- What was put off for want of room asks again.
        freed as (
          update scheduled_actions a
          set at = world_now(), first_at = coalesce(a.first_at, a.at)
          from email_messages m
          where a.ref_id = m.id
            and a.kind = 'email'
            and m.sender_id = $1
            and m.status = 'queued'
            and not m.slotted
            and m.waits_for in ('cap', 'domain')
        )
        update users u
        set
          daily_email_cap = $2, email_spacing_seconds = $3, email_jitter = $4, email_domain_cap = $5,
          email_ramp_first = $6, email_ramp_more = $7, version = version + 1
        from before b
        where u.id = b.id
        returning u.id
      `,
      [userId, cap, spacing, jitter, domainCap, ramp?.first ?? null, ramp?.more ?? null],
    ),
  )
  if (!row) throw notFound('user')
}
