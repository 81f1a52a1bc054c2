import { isCallable } from '#core/calendar/callingHours'
import { placeOf } from '#core/engine/state/engineState'
import { takesTexts, whyStopped } from '#core/engine/moves/stops'
import type { Id } from '#core/instant'
import { newId } from '#shared/newId'
import { handOverText } from '../../channels/text/gateway'
import { db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { load } from '../../engine/load'
import { playbook } from '../../engine/playbook'
import { recordEvents } from '../../engine/recordEvents'

interface QueuedText {
  prospectId: Id | null
  phoneId: Id | null
  number: string
  body: string
  userId: Id | null
  /** When it was written, in milliseconds; and how long ago that is. */
  at: number
  age: number
}

/** How long a text may wait for the gateway before the hour where they are is asked again, in milliseconds. */
const FRESH = 10 * 60_000

/** Why a text that is queued may not leave after all; what is sent by itself answers a word of theirs, and may. */
async function whyNot(text: QueuedText): Promise<string | null> {
  if (!text.prospectId || !text.userId) return null
  const { state, playbookVersion } = await load(db(), [text.prospectId])
  const book = await playbook(db(), playbookVersion)
  const prospect = state.prospect[text.prospectId]
  if (!prospect) return 'The prospect no longer exists'
  const stopped = whyStopped(state, prospect, false)
  if (stopped) return stopped
  if (prospect.stopCall) return 'Asked not to be called or texted'
  const phone = state.phone[text.phoneId ?? '']
  if (phone && !takesTexts(phone)) return 'Asked for no more texts'
  const late = text.age > FRESH && !isCallable(state.now, book.callHours, placeOf(prospect), book.holidays)
  return late ? 'The gateway took it only when calling hours there were over' : null
}

/**
 * Hands a queued text over. Asked again at this moment: stops and what they said about texts. Throws where the gateway
 * does not answer, so that it is tried again; under the same id, so that it is sent once. The last time it counts as
 * not delivered instead.
 */
export async function deliverText(id: Id, isLast = false): Promise<void> {
  const text = await firstRow(
    db().query<QueuedText>(
      sql`
        select
          prospect_id as "prospectId", phone_id as "phoneId", number, body, user_id as "userId", ms(at) as at,
          ms(world_now()) - ms(at) as age
        from text_messages
        where id = $1 and status = 'queued'
      `,
      [id],
    ),
  )
  if (!text) return
  const why = await whyNot(text)
  const delivery = why
    ? ({ status: 'refused', error: why } as const)
    : await handOverText({ id, to: text.number, text: text.body })
  if (delivery.status === 'later' && !isLast) throw new Error(`${delivery.error}. The text is tried again`)
  if (delivery.status !== 'taken') return failText(id, delivery.error)
  await db().query(sql`update text_messages set status = 'sent' where id = $1 and status = 'queued'`, [id])
}

/** Notes that a text was not delivered, and asks the user who sent it to see to it. Once. */
export async function failText(id: Id, error: string): Promise<void> {
  const row = await firstRow(
    db().query<{ prospectId: Id | null; senderId: Id | null }>(
      sql`
        update text_messages
        set status = 'failed', error = $2
        where id = $1 and status in ('queued', 'sent')
        returning prospect_id as "prospectId", user_id as "senderId"
      `,
      [id, error],
    ),
  )
  if (!row?.prospectId || !row.senderId) return
  await recordEvents([
    {
      id: newId(),
      kind: 'textFailed',
      prospectId: row.prospectId,
      actorId: null,
      causedByEventId: null,
      messageId: id,
      senderId: row.senderId,
    },
  ])
}
