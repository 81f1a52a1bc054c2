import { MOST_ATTACHED, tooMuchAttached } from '#core/email/hints'
import type { Problem } from '#core/engine/state/events'
import type { Id } from '#core/instant'
import { picturesIn } from '#core/text/html'
import type { StoredFile } from '#shared/api/email/files'
import { newId } from '#shared/newId'
import { db, type Db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { collectBytes } from '../access/collectBytes'
import { notFound, Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'

/** What the first bytes of pictures are; anything else goes as what its name says. */
const SIGNATURES: readonly (readonly [string, string])[] = [
  ['89504e470d0a1a0a', 'image/png'],
  ['ffd8ff', 'image/jpeg'],
  ['474946383761', 'image/gif'],
  ['474946383961', 'image/gif'],
]
/** Of files that are not pictures, by the ends of their names (IANA media types). */
const BY_NAME: Readonly<Record<string, string>> = {
  pdf: 'application/pdf',
  txt: 'text/plain',
  csv: 'text/csv',
  ics: 'text/calendar',
  zip: 'application/zip',
  docx: 'application/vnd.openxmlformats-officedocument.wordprocessingml.document',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
  pptx: 'application/vnd.openxmlformats-officedocument.presentationml.presentation',
}
/** Ends of names of programs: receivers refuse emails with them. */
const PROGRAMS = /\.(?:exe|bat|cmd|com|scr|msi|js|vbs|jar|ps1|hta|lnk|dll)$/i

function mediaTypeOf(name: string, content: Buffer): string {
  const start = content.subarray(0, 8).toString('hex')
  const picture = SIGNATURES.find(([signature]) => start.startsWith(signature))?.[1]
  return picture ?? BY_NAME[/\.(\w+)$/.exec(name.toLowerCase())?.[1] ?? ''] ?? 'application/octet-stream'
}

function refuse(message: string): never {
  throw new Refusal('invalid', message, [{ field: 'file', message }])
}

/** Adds a file for emails. Throws where it is empty, too large, or a program that no receiver takes. */
export async function uploadFile(viewer: Viewer, given: string, bytes: AsyncIterable<Uint8Array>): Promise<StoredFile> {
  const name = given.replace(/[\u0000-\u001f"\\/]/g, '_')
  if (PROGRAMS.test(name)) refuse('Programs cannot be sent by email: receivers refuse them')
  const content = await collectBytes(bytes, MOST_ATTACHED, () =>
    refuse(`“${name}” is larger than ${MOST_ATTACHED / 1_000_000} MB`),
  )
  const size = content.length
  if (!size) refuse(`“${name}” is empty`)
  const file = { id: newId(), name, mediaType: mediaTypeOf(name, content), bytes: size }
  await db().query(
    sql`
      insert into files (id, name, media_type, bytes, content, user_id, created_at)
      values ($1, $2, $3, $4, $5, $6, world_now())
    `,
    [file.id, name, file.mediaType, size, content, viewer.id],
  )
  return file
}

/** Names and sizes of files, in the order of their ids; those that are not there are left out. */
export async function findFiles(ids: readonly Id[], client: Db = db()): Promise<StoredFile[]> {
  if (!ids.length) return []
  const { rows } = await client.query<StoredFile>(
    sql`
      select id, name, media_type as "mediaType", bytes
      from files
      where id = any($1::uuid[])
      order by array_position($1::uuid[], id)
    `,
    [ids],
  )
  return rows
}

/** A file with its content. Throws where there is none. */
export async function getFile(id: Id): Promise<Omit<StoredFile, 'bytes'> & { content: Buffer }> {
  const row = await firstRow(
    db().query<Omit<StoredFile, 'bytes'> & { content: Buffer }>(
      sql`select id, name, media_type as "mediaType", content from files where id = $1`,
      [id],
    ),
  )
  if (!row) throw notFound('file')
  return row
}

/** What an email’s attachments and pictures come to in bytes, and what is wrong with them, at their fields. */
export async function weighFiles(
  email: { html: string | null; attachments: readonly Id[] },
  client: Db = db(),
): Promise<{ bytes: number; problems: Problem[] }> {
  const pictures = picturesIn(email.html ?? '')
  const files = await findFiles([...new Set([...email.attachments, ...pictures])], client)
  const lost = (ids: readonly Id[], field: string, message: string) =>
    ids.every((id) => files.some((file) => file.id === id)) ? [] : [{ field, message }]
  const bytes = files.reduce((sum, file) => sum + file.bytes, 0)
  const tooMuch = tooMuchAttached(bytes)
  return {
    bytes,
    problems: [
      ...lost(email.attachments, 'attachments', 'An attachment has been deleted: remove it or add it again'),
      ...lost(pictures, 'body', 'A picture has been deleted: remove it or add it again'),
      ...(tooMuch ? [{ field: 'attachments', message: tooMuch }] : []),
    ],
  }
}

/** Deletes files that nothing has referred to for a week, by the machine’s clock and the world’s. */
export async function deleteUnusedFiles(): Promise<number> {
  const { rowCount } = await db().query(sql`
    delete from files f
    where f.created_at < least(now(), world_now()) - interval '7 days'
      and not exists (
        select from email_templates t
        where f.id = any(t.attachments) or position(f.id::text in t.html) > 0
      )
      and not exists (
        select from task_contents c
        where f.id = any(c.attachments) or position(f.id::text in c.html) > 0
      )
      and not exists (
        select from cadence_steps s
        where f.id = any(s.attachments) or position(f.id::text in concat(s.html, s.versions::text)) > 0
      )
      and not exists (
        select from email_messages m
        where (m.html is not null or m.attachments <> '{}')
          and (f.id = any(m.attachments) or position(f.id::text in m.html) > 0)
      )
  `)
  return rowCount ?? 0
}
