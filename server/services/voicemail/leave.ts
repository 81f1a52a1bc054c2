import type { Id } from '#core/instant'
import { dialer } from '../../channels/phone/dialer'
import { db } from '../../db/pool'
import { sql } from '../../db/sql'
import { Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { readCall } from '../desk/calls'
import { messageWithContent } from './messages'

/**
 * Leaves one of the viewer's messages in the voicemail box that has answered their call; it plays to its end by itself,
 * while they go on. Asked again (the answer was lost), it is not played twice. Throws conflict where no box has
 * answered.
 */
export async function leaveVoicemail(
  viewer: Viewer,
  callId: Id,
  messageId: Id | null,
): Promise<{ name: string; seconds: number }> {
  const { madeWith, voicemailAt, ...made } = await readCall(viewer, callId)
  const { id, name, seconds, mediaType, content } = await messageWithContent(viewer, messageId)
  if (voicemailAt !== null) return { name, seconds }
  const by = dialer(madeWith)
  if ((await by.status(made)).status !== 'voicemail') {
    throw new Refusal('conflict', 'No voicemail box is on the line now')
  }
  // Of two that are asked for at once, one plays.
  const { rowCount } = await db().query(
    sql`
      update calls
      set voicemail_id = $2, voicemail_at = world_now()
      where id = $1 and voicemail_at is null
    `,
    [callId, id],
  )
  if (!rowCount) return { name, seconds }
  try {
    await by.play(made.ref, { mediaType, content })
  } catch (error) {
    await db().query(sql`update calls set voicemail_id = null, voicemail_at = null where id = $1`, [callId])
    throw error
  }
  return { name, seconds }
}
