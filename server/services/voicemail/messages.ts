import { readAudio } from '#core/audio/audioLength'
import type { Id } from '#core/instant'
import type { VoicemailMessage } from '#shared/api/desk/voicemail'
import { newId } from '#shared/newId'
import { db, transaction, type Db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { collectBytes } from '../access/collectBytes'
import { notFound, Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'

/** The longest message, in seconds, and the largest file, in bytes: a minute of uncompressed stereo. */
const LONGEST = 60
const LARGEST = 12_000_000
/** How many messages a user may have. */
const MOST = 10

const COLUMNS = 'id, name, seconds, media_type as "mediaType"'

/** The viewer's messages, the one that is left by the key first. */
export async function listMessages(viewer: Viewer): Promise<VoicemailMessage[]> {
  const { rows } = await db().query<VoicemailMessage>(
    sql`
      select ${COLUMNS}
      from voicemail_messages
      where user_id = $1
      order by position
    `,
    [viewer.id],
  )
  return rows
}

function refuse(message: string): never {
  throw new Refusal('invalid', message, [{ field: 'file', message }])
}

/** Adds a message of the viewer's. Throws where it is neither WAV nor OGG, or longer than a minute. */
export async function addMessage(
  viewer: Viewer,
  name: string,
  bytes: AsyncIterable<Uint8Array>,
): Promise<VoicemailMessage> {
  const content = await collectBytes(bytes, LARGEST, () => refuse('This file is larger than a minute needs'))
  const audio = readAudio(content)
  if (!audio) return refuse('A message is a WAV or an OGG file')
  if (audio.seconds === 0) return refuse('This message is empty')
  if (audio.seconds > LONGEST) {
    return refuse(`This message is ${Math.ceil(audio.seconds)} seconds long. At most ${LONGEST} are left`)
  }
  return transaction(async (client) => {
    await lockOf(client, viewer)
    const added = await firstRow(
      client.query<VoicemailMessage>(
        sql`
          insert into voicemail_messages (id, user_id, name, position, media_type, seconds, content, created_at)
          select $1, $2, $3, count(*), $4, $5, $6, world_now()
          from voicemail_messages
          where user_id = $2
          having count(*) < ${String(MOST)}
          returning ${COLUMNS}
        `,
        [newId(), viewer.id, name.trim(), audio.mediaType, audio.seconds, content],
      ),
    )
    if (!added) throw new Refusal('refused', `There are ${MOST} messages already. Delete one first`)
    return added
  })
}

/** Changes of one user's messages come one after the other. */
async function lockOf(client: Db, viewer: Viewer): Promise<void> {
  await client.query(sql`select from users where id = $1 for update`, [viewer.id])
}

/** Renames a message of the viewer's, or puts it first. */
export async function editMessage(viewer: Viewer, id: Id, { name, first }: { name?: string; first?: true }) {
  await transaction(async (client) => {
    await lockOf(client, viewer)
    const { rowCount } = await client.query(
      sql`
        update voicemail_messages
        set name = coalesce($3, name)
        where id = $2 and user_id = $1
      `,
      [viewer.id, id, name?.trim() ?? null],
    )
    if (!rowCount) throw notFound('message')
    if (first) await number(client, viewer, id)
  })
}

/** Numbers a user's messages from 0, one of them first. */
async function number(client: Db, viewer: Viewer, first: Id | null): Promise<void> {
  await client.query(
    sql`
      update voicemail_messages m
      set position = o.place
      from (
        select id, row_number() over (order by id is distinct from $2::uuid, position) - 1 as place
        from voicemail_messages
        where user_id = $1
      ) o
      where m.id = o.id and m.position <> o.place
    `,
    [viewer.id, first],
  )
}

/** Deletes a message of the viewer's; calls with which it was left keep that it was. */
export async function removeMessage(viewer: Viewer, id: Id): Promise<void> {
  await transaction(async (client) => {
    await lockOf(client, viewer)
    const { rowCount } = await client.query(sql`delete from voicemail_messages where id = $2 and user_id = $1`, [
      viewer.id,
      id,
    ])
    if (!rowCount) throw notFound('message')
    await number(client, viewer, null)
  })
}

/** A message of the viewer's with its content; without an id, the first. Throws not_found for none. */
export async function messageWithContent(
  viewer: Viewer,
  id: Id | null,
): Promise<VoicemailMessage & { content: Buffer }> {
  const message = await firstRow(
    db().query<VoicemailMessage & { content: Buffer }>(
      sql`
        select ${COLUMNS}, content
        from voicemail_messages
        where user_id = $1 and ($2::uuid is null or id = $2)
        order by position
        limit 1
      `,
      [viewer.id, id],
    ),
  )
  if (!message) throw notFound('message')
  return message
}
