import { manages } from '#core/roles'
import type { SETUP_STEPS } from '#shared/api/settings/setup'
import { db } from '../../db/pool'
import type { Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

interface Step {
  key: (typeof SETUP_STEPS)[number]
  done: boolean
  detail: string | null
}

interface State {
  hidden: boolean
  name: string
  address: string
  saved: boolean
  returned: boolean
  users: number
  prospects: boolean
  lists: number
  started: boolean
  calls: boolean
  dailyCalls: number
  dailyConversations: number
  dailyMeetings: number
}

const STATE_SQL = sql`
  select
    u.setup_hidden_at is not null as hidden, t.name, t.postal_address as address, t.saved_at is not null as saved,
    exists (select from system_emails s where s.kind = 'round_trip' and s.returned_at is not null) as returned,
    (select count(*) from users x where x.active)::int as users, exists (select from prospects) as prospects,
    (select count(*) from lists)::int as lists, exists (select from enrollments) as started,
    exists (select from touches c where c.user_id = u.id and c.kind = 'call') as calls,
    u.daily_calls as "dailyCalls", u.daily_conversations as "dailyConversations",
    u.daily_meetings as "dailyMeetings"
  from users u
    cross join team t
  where u.id = $1
`

const several = (count: number, noun: string) => `${count.toLocaleString('en-US')} ${noun}${count === 1 ? '' : 's'}`

/** What is left to set up, worked out from what is there: the installation for managers, their first day for reps. */
export async function getSetup(viewer: Viewer): Promise<{ hidden: boolean; steps: Step[] }> {
  const row = await firstRow(db().query<State>(STATE_SQL, [viewer.id]))
  const status = row!
  const lacksAddress = 'The postal address is missing: the law wants it in cold email'
  const aboutCompany = status.address.trim() ? status.name : lacksAddress
  const rep: Step[] = [
    { key: 'timeZone', done: true, detail: viewer.timeZone.replaceAll('_', ' ') },
    { key: 'signature', done: Boolean(viewer.signature), detail: null },
    {
      key: 'goals',
      done: true,
      detail: `${several(status.dailyCalls, 'call')}, ${several(status.dailyConversations, 'conversation')} and ${several(status.dailyMeetings, 'meeting')} a day`,
    },
    { key: 'call', done: status.calls, detail: null },
  ]
  const manager: Step[] = [
    {
      key: 'company',
      done: status.saved && status.address.trim() !== '',
      detail: status.saved ? aboutCompany : null,
    },
    { key: 'email', done: status.returned, detail: null },
    { key: 'users', done: status.users > 1, detail: status.users > 1 ? several(status.users, 'user') : null },
    { key: 'prospects', done: status.prospects, detail: null },
    { key: 'lists', done: status.lists > 0, detail: status.lists ? several(status.lists, 'list') : null },
    { key: 'cadence', done: status.started, detail: null },
  ]
  return { hidden: status.hidden, steps: !manages(viewer) ? rep : manager }
}

/** Puts the viewer's guide away, or shows it again. */
export async function hideSetup(viewer: Viewer, hidden: boolean): Promise<void> {
  await db().query(sql`update users set setup_hidden_at = case when $2 then now() end where id = $1`, [
    viewer.id,
    hidden,
  ])
}
