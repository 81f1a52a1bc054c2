import { randomBytes } from 'node:crypto'
import type { Id } from '#core/instant'
import type { User } from '#shared/api/session'
import { db } from '../../db/pool'
import { INVITE_HOURS, makeResetLink } from './accounts'
import type { Viewer } from '../access/viewer'
import { addUser } from '../settings/settings'
import { queueSystemEmail } from '../email/systemEmails'
import { firstRow, sql } from '../../db/sql'

/**
 * Adds someone to the team without a password that anyone knows, and emails them a link with which they set their
 * own. The link works once, for a week; another is made like any reset link.
 */
export async function inviteUser(
  viewer: Viewer,
  invited: { id: Id; name: string; email: string; role: User['role']; timeZone: string },
): Promise<{ userId: Id }> {
  const { id, ...person } = invited
  const team = await firstRow(db().query<{ name: string }>(sql`select name from team`))
  const { id: userId } = await addUser(viewer, { ...person, password: randomBytes(24).toString('base64url') })
  const { url } = await makeResetLink(viewer, userId, INVITE_HOURS)
  const body = [
    `Hello ${person.name.split(' ')[0]},`,
    `${viewer.name} has added you to Uphill for ${team!.name}.`,
    `Set your password here to start. The link works once, for a week:\n${url}`,
    `You sign in with this email address: ${person.email}`,
    viewer.name,
  ].join('\n\n')
  await queueSystemEmail(viewer, id, {
    kind: 'invite',
    to: person.email,
    subject: `You are invited to Uphill for ${team!.name}`,
    body,
  })
  return { userId }
}
