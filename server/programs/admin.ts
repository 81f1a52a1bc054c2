import { newId } from '#shared/newId'
import { closePool, db } from '../db/pool'
import { hashPassword } from '../services/access/passwords'
import { seedPlaybook } from '../services/settings/firstPlaybook'
import { sql } from '../db/sql'

/**
 * Makes the first administrator of a new installation, with the usual stages and outcomes where there are none.
 * Usage: UPHILL_PASSWORD=… npm run admin -- EMAIL "NAME" [ZONE]
 */
const [email, name, timeZone = 'UTC'] = process.argv.slice(2)
const password = process.env.UPHILL_PASSWORD ?? ''
if (!email || !name || password.length < 10) {
  console.error('Usage: UPHILL_PASSWORD=(at least 10 characters) npm run admin -- EMAIL "NAME" [TIME ZONE]')
  process.exit(1)
}
try {
  await seedPlaybook(db())
  await db().query(
    sql`
      insert into users (id, email, name, role, time_zone, password_hash)
      values ($1, $2, $3, 'admin', $4, $5)
      on conflict (email) do update set role = 'admin', password_hash = excluded.password_hash, active = true
    `,
    [newId(), email.toLowerCase(), name, timeZone, await hashPassword(password)],
  )
  console.log(`${email} can sign in now`)
} catch (error) {
  console.error(`Not done: ${(error as Error).message}`)
  process.exitCode = 1
}
await closePool()
