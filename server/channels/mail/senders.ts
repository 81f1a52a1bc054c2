import type { Sender } from '#core/cadence/allot'
import type { Id, Instant } from '#core/instant'
import type { Db } from '../../db/pool'
import { sql } from '../../db/sql'

/** What a sender has used, as it is written back. */
export interface SenderState {
  id: Id
  day: string | null
  given: number
  domains: Readonly<Record<string, number>>
  days: number
  last: Instant | null
}

interface SenderRow extends SenderState {
  timeZone: string
  country: string
  cap: number
  spacing: number
  jitter: number
  domainCap: number | null
  first: number | null
  more: number | null
}

const SENDERS_SQL = sql`
  select
    s.user_id as id, u.time_zone as "timeZone", t.country, u.daily_email_cap as cap,
    u.email_spacing_seconds as spacing, u.email_jitter as jitter, u.email_domain_cap as "domainCap",
    u.email_ramp_first as first, u.email_ramp_more as more,
    to_char(s.day, 'YYYY-MM-DD') as day, s.given, s.domains, s.days_sent as days, ms(s.last_slot_at) as last
  from email_senders s
    join users u on u.id = s.user_id
    cross join team t
  where s.user_id = any($1::uuid[])
  order by s.user_id
`

/** What each of these users may send, and has sent; locked until the transaction ends where moments are to be given. */
export async function readSenders(client: Db, ids: readonly (Id | null)[], lock = false): Promise<[Id, Sender][]> {
  const { rows } = await client.query<SenderRow>(lock ? sql`${SENDERS_SQL} for update of s` : SENDERS_SQL, [ids])
  return rows.map((row) => [
    row.id,
    {
      timeZone: row.timeZone,
      country: row.country,
      cap: row.cap,
      ramp: row.first === null ? null : { first: row.first, more: row.more! },
      daysSent: row.days,
      spacing: row.spacing,
      jitter: row.jitter / 100,
      domainCap: row.domainCap,
      day: row.day,
      given: row.given,
      domains: row.domains,
      lastSlotAt: row.last,
    },
  ])
}
