import { randomUUID } from 'node:crypto'
import { readAudio, writeWav } from '../core/audio/audioLength'
import type { Id } from '../core/instant'
import { db } from '../server/db/pool'
import { sql } from '../server/db/sql'

/** Two tones instead of a voice: what is heard is not the point of the sample. */
function tones(): Uint8Array {
  const rate = 4_000
  return writeWav(
    new Float32Array(rate * 3).map((_, index) => {
      const pitch = index < rate * 1.5 ? 330 : 262
      return 0.25 * Math.sin((2 * Math.PI * pitch * index) / rate)
    }),
    rate,
  )
}

/** A voicemail message of a rep's, so that one can be left at once. */
export async function addVoicemailMessage(userId: Id): Promise<void> {
  const content = tones()
  const { mediaType, seconds } = readAudio(content)!
  await db().query(
    sql`
      insert into voicemail_messages (id, user_id, name, position, media_type, seconds, content, created_at)
      values ($1, $2, 'Sample message', 0, $3, $4, $5, world_now())
    `,
    [randomUUID(), userId, mediaType, seconds, Buffer.from(content)],
  )
}
