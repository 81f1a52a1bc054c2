import type { Id } from '#core/instant'
import { newId } from '#shared/newId'
import { db } from '../../db/pool'
import { recordEvents } from '../../engine/recordEvents'
import { CLAIM_SECONDS, putOff, releaseClaims } from './handOver'
import type { MailChannel } from './transport'
import { sql } from '../../db/sql'

/** After how many hand-overs that ended the worker an email is left to a person. */
const MOST_ATTEMPTS = 5

interface Unsettled {
  id: Id
  prospect_id: Id
  header_id: string
  attempts: number
  accepted: boolean
}

/**
 * Settles what a worker left behind: claimed email that was not handed over goes back to the queue. Of email that was
 * being handed over, what the server can prove it did not take goes back too, what it is known to have taken is sent,
 * and where nobody can tell it is held as "delivery unknown". A worker that may only have lost touch (`ended` false)
 * keeps what it claimed less than a claim's time ago. Gives how many were settled.
 */
export async function recoverMail(channel: MailChannel, workerId: string, ended = true): Promise<number> {
  const released = await releaseClaims(workerId, { oldOnly: !ended })
  const { rows } = await db().query<Unsettled>(
    sql`
      select id, prospect_id, header_id, attempts, accepted_at is not null as accepted
      from email_messages
      where status = 'sending' and claimed_by = $1 and ($2 or claimed_at < now() - make_interval(secs => $3))
    `,
    [workerId, ended, CLAIM_SECONDS],
  )
  for (const row of rows) await settle(channel, row)
  return released + rows.length
}

async function settle(
  channel: MailChannel,
  { id, prospect_id: prospectId, header_id: headerId, attempts, accepted }: Unsettled,
): Promise<void> {
  const taken = accepted || (await channel.wasTaken(headerId))
  const about = { id: newId(), prospectId, actorId: null, causedByEventId: null, messageId: id }
  if (taken === false && attempts < MOST_ATTEMPTS) {
    await putOff([{ id, minutes: 0, lastError: 'The sending program ended before the server took it' }])
  } else if (taken === false) await recordEvents([{ ...about, kind: 'emailFailed', permanent: false }])
  else await recordEvents([{ ...about, kind: taken ? 'emailSent' : 'emailUnconfirmed' }])
}

/**
 * Workers whose claims are far older than a claim holds, whether or not they are known: nobody else would see to these.
 */
export async function workersWithOldClaims(): Promise<string[]> {
  const { rows } = await db().query<{ claimed_by: string }>(
    sql`
      select distinct claimed_by
      from email_messages
      where claimed_by is not null
        and status in ('queued', 'sending')
        and claimed_at < now() - make_interval(secs => $1)
    `,
    [3 * CLAIM_SECONDS],
  )
  return rows.map((row) => row.claimed_by)
}
