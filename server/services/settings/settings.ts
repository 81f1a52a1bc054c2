import { manages } from '#core/roles'
import { COUNTRIES_WITH_OWN_HOURS, everCallable } from '#core/calendar/callingHours'
import type { Id } from '#core/instant'
import type { User } from '#shared/api/session'
import { newId } from '#shared/newId'
import { breaksUnique, db, transaction } from '../../db/pool'
import { playbookChanged } from '../../engine/playbook'
import { notFound, Refusal } from '../access/errors'
import { checkPassword, hashPassword } from '../access/passwords'
import type { Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

/** The team, by name. */
export async function listUsers() {
  const { rows } = await db().query<User & { active: boolean; team: string | null }>(
    sql`select id, name, email, role, time_zone as "timeZone", active, team from users order by name`,
  )
  return { users: rows }
}

/** Adds someone to the team. Only an admin can make a user an admin. */
export async function addUser(
  viewer: Viewer,
  user: { name: string; email: string; role: User['role']; timeZone: string; password: string },
): Promise<{ id: Id }> {
  if (user.role === 'admin' && viewer.role !== 'admin') {
    throw new Refusal('not_allowed', 'Only an admin can make a user an admin')
  }
  checkPassword(user.password, user)
  const id = newId()
  try {
    await db().query(
      sql`
        insert into users (
          id, name, email, role, time_zone, password_hash, must_change_password, email_jitter, email_ramp_first,
          email_ramp_more
        )
        -- A new sender starts slowly.
        values ($1, $2, $3, $4, $5, $6, true, 50, 20, 10)
      `,
      [id, user.name, user.email, user.role, user.timeZone, await hashPassword(user.password)],
    )
  } catch (error) {
    if (breaksUnique(error, 'users_email_key')) {
      throw new Refusal('conflict', 'Another user has this email address', [
        { field: 'email', message: 'Another user has this email address' },
      ])
    }
    throw error
  }
  return { id }
}

/** Changes a role, or lets someone no longer in: their sessions end at once. The last admin stays one. */
export async function editUser(
  viewer: Viewer,
  id: Id,
  edit: { role?: User['role']; active?: boolean; team?: string | null },
): Promise<void> {
  await transaction(async (client) => {
    const { rows: users } = await client.query<{ id: Id; role: User['role']; active: boolean }>(
      sql`select id, role, active from users order by id for update`,
    )
    const user = users.find((row) => row.id === id)
    if (!user) throw notFound('user')
    if ((edit.role === 'admin' || user.role === 'admin') && viewer.role !== 'admin') {
      throw new Refusal('not_allowed', 'Only an admin can change an admin')
    }
    const after = users.map((row) => (row.id === id ? { ...row, ...edit } : row))
    if (!after.some((row) => manages(row) && row.active)) {
      throw new Refusal('refused', 'At least one active manager is required')
    }
    await client.query(
      sql`
        update users
        set
          role = coalesce($2, role), active = coalesce($3, active),
          team = case when $4 then nullif($5, '') else team end, version = version + 1
        where id = $1
      `,
      [id, edit.role ?? null, edit.active ?? null, edit.team !== undefined, edit.team ?? null],
    )
    // Actions that assign to them say so.
    if (edit.active !== undefined) await playbookChanged(client)
    if (edit.active === false) {
      await client.query(sql`delete from sessions where user_id = $1`, [id])
      await client.query(
        sql`
          update api_keys
          set revoked_at = coalesce(revoked_at, now())
          where user_id = $1
        `,
        [id],
      )
      await client.query(sql`delete from password_resets where user_id = $1`, [id])
    }
  })
}

const TEAM = sql`
  name, postal_address as "postalAddress", country, time_zone as "timeZone", shares_all as "sharesAll",
  call_days as "callDays",
  call_from as "callFrom", call_to as "callTo", fallback_days as "fallbackDays", retry_days as "retryDays",
  counts_uncalled as "countsUncalled",
  attempt_notes as "attemptNotes", call_qualities as "callQualities", count_clicks as "countClicks",
  most_overdue as "mostOverdue", currency, attempts_allowed as "attemptsAllowed", idle_minutes as "idleMinutes"
`
interface Team {
  name: string
  postalAddress: string
  country: string
  timeZone: string
  sharesAll: boolean
  callDays: number[]
  callFrom: number
  callTo: number
  fallbackDays: number
  retryDays: number
  countsUncalled: boolean
  attemptNotes: boolean
  mostOverdue: number | null
  countClicks: boolean
  callQualities: string[]
  currency: string
  attemptsAllowed: number
  idleMinutes: number
}

/** What holds for the whole team. */
export async function getTeam(): Promise<Team> {
  const row = await firstRow(db().query<Team>(sql`select ${TEAM} from team`))
  return row!
}

/**
 * Throws where the hours never fall into those in which people may be called, in the team's own country or one where
 * people are.
 */
async function checkCallHours(team: Team): Promise<void> {
  const hours = { days: team.callDays, from: team.callFrom, to: team.callTo }
  const never = [team.country, ...COUNTRIES_WITH_OWN_HOURS].filter((country) => !everCallable(hours, { country }))
  if (!never.length) return
  const { rows } = await db().query<{ country: string; count: number }>(
    sql`
      select country, count(*) as count
      from prospects
      where country = any($1) and merged_into is null
      group by 1
      order by 2 desc
    `,
    [never],
  )
  const name = (country: string) => new Intl.DisplayNames('en', { type: 'region' }).of(country) ?? country
  const message = never.includes(team.country)
    ? `Nobody in ${name(team.country)} may be called in these hours`
    : rows[0] &&
      `In these hours nobody in ${name(rows[0].country)} may be called, and ${rows[0].count === 1 ? 'one person is' : `${rows[0].count.toLocaleString('en-US')} people are`} there`
  if (message) throw new Refusal('invalid', message, [{ field: 'callFrom', message }])
}

/** Changes what holds for the whole team. */
export async function editTeam(team: Team): Promise<Team> {
  await checkCallHours(team)
  await transaction(async (client) => {
    await client.query(
      sql`
        update team
        set
          name = $1, postal_address = $2, country = $3, time_zone = $4, shares_all = $5, call_days = $6, call_from = $7,
          call_to = $8, fallback_days = $9, attempts_allowed = $10, idle_minutes = $11, retry_days = $12,
          counts_uncalled = $13, currency = $14, attempt_notes = $15, call_qualities = $16, count_clicks = $17,
          most_overdue = $18,
          saved_at = coalesce(saved_at, now())
      `,
      [
        team.name,
        team.postalAddress,
        team.country,
        team.timeZone,
        team.sharesAll,
        team.callDays,
        team.callFrom,
        team.callTo,
        team.fallbackDays,
        team.attemptsAllowed,
        team.idleMinutes,
        team.retryDays,
        team.countsUncalled,
        team.currency,
        team.attemptNotes,
        team.callQualities,
        team.countClicks,
        team.mostOverdue,
      ],
    )
    await playbookChanged(client)
  })
  return getTeam()
}
