import { db } from '../../db/pool'
import { env } from '../../environment'
import { sql } from '../../db/sql'

/** The one password of the demo's accounts; it opens nothing but the demo. */
export const DEMO_PASSWORD = 'climb-the-hill'

/** The demo's accounts and where its mailbox is; null outside the demo. */
export async function demoAccounts() {
  if (!env().demo) return null
  const { rows } = await db().query<{ email: string; name: string; role: string }>(
    sql`
      select email, name, role
      from users
      where active
      order by role in ('rep', 'caller'), name
      limit 10
    `,
  )
  const accounts = rows.map((row) => ({ ...row, password: DEMO_PASSWORD }))
  return { mailboxUrl: env().mailboxUrl, telephonesUrl: env().lineUrl, accounts }
}
