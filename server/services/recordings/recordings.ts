import { readAudio } from '#core/audio/audioLength'
import { onlyCalls } from '#core/roles'
import type { Id } from '#core/instant'
import { recordingLine } from '../../channels/phone/dialer'
import { db, transaction } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { log } from '../../log'
import { mustSee } from '../access/access'
import { collectBytes } from '../access/collectBytes'
import { notFound, Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { readCall } from '../desk/calls'

/** The largest recording that is kept, in bytes: three hours of a voice, compressed. */
const LARGEST = 50_000_000

/** The exchange has a recording of a call: it is fetched by a job. Of a call that is not recorded, nothing happens. */
export async function recordingReady(ref: string): Promise<void> {
  await db().query(
    sql`
      with ready as (
        update calls
        set recording = 'ready'
        where line_ref = $1 and recording = 'on'
        returning id
      )
      select graphile_worker.add_job(
        'fetchRecording', json_build_object('id', id), job_key => 'recording ' || id, max_attempts => 8
      )
      from ready
    `,
    [ref],
  )
}

/**
 * Fetches the recording of a call from the exchange and keeps it. What is too large, or no sound, is lost, and said so
 * in the log. Throws where the exchange does not answer; at the last attempt it is lost, too.
 */
export async function fetchRecording(callId: Id, isLast = false): Promise<void> {
  const call = await firstRow(
    db().query<{ ref: string }>(
      sql`select line_ref as ref from calls where id = $1 and recording = 'ready' and line_ref is not null`,
      [callId],
    ),
  )
  if (!call) return
  const lose = async (why: string) => {
    await db().query(sql`update calls set recording = 'lost' where id = $1 and recording = 'ready'`, [callId])
    log.warn(`The recording of a call was not kept: ${why}`)
  }
  const line = recordingLine()
  const response = await line?.fetch(call.ref)
  if (!response?.ok || !response.body) {
    if (isLast || !line || response?.status === 404) return lose('the exchange does not have it')
    throw new Error('The exchange does not answer')
  }
  let content: Buffer
  try {
    content = await collectBytes(response.body as unknown as AsyncIterable<Uint8Array>, LARGEST, () => {
      throw new Refusal('too_large', 'The recording is too large')
    })
  } catch (error) {
    if (error instanceof Refusal) return lose(`it is larger than ${LARGEST / 1_000_000} MB`)
    throw error
  }
  const audio = readAudio(content)
  if (!audio) return lose('it is neither WAV nor OGG')
  await transaction(async (client) => {
    const { rowCount } = await client.query(
      sql`update calls set recording = 'saved' where id = $1 and recording = 'ready'`,
      [callId],
    )
    if (!rowCount) return
    await client.query(
      sql`
        insert into call_recordings (call_id, media_type, seconds, content, delete_at)
        select c.id, $2, $3, $4, c.started_at + t.recordings_kept_days * interval '1 day'
        from calls c, team t
        where c.id = $1
      `,
      [callId, audio.mediaType, audio.seconds, content],
    )
  })
  await line?.remove(call.ref)
}

/** The viewer stops the recording of their own call: nothing of it is kept, here or at the exchange. */
export async function stopRecording(viewer: Viewer, callId: Id): Promise<void> {
  const { ref } = await readCall(viewer, callId)
  if (ref === null) throw notFound('recording')
  const { rowCount } = await db().query(
    sql`update calls set recording = 'stopped' where id = $1 and recording in ('on', 'ready', 'stopped')`,
    [callId],
  )
  if (!rowCount) throw notFound('recording')
  if (!(await recordingLine()?.remove(ref))) {
    throw new Refusal('unavailable', 'The exchange does not answer. Hang up if they do not want to be recorded')
  }
}

interface RecordingRow {
  prospectId: Id
  userId: Id
  mediaType: string
  content: Buffer
}

/** A recording with its content, for who may see the person; callers hear their own calls. */
export async function recordingOf(viewer: Viewer, callId: Id): Promise<{ mediaType: string; content: Buffer }> {
  const row = await firstRow(
    db().query<RecordingRow>(
      sql`
        select c.prospect_id as "prospectId", c.user_id as "userId", r.media_type as "mediaType", r.content
        from call_recordings r
          join calls c on c.id = r.call_id
        where r.call_id = $1 and r.delete_at > world_now()
      `,
      [callId],
    ),
  )
  if (!row || (onlyCalls(viewer) && row.userId !== viewer.id)) throw notFound('recording')
  await mustSee(viewer, row.prospectId)
  return row
}

/** Deletes the recordings whose days are over. Gives how many. */
export async function deleteOldRecordings(): Promise<number> {
  const { rowCount } = await db().query(sql`
    with old as (
      delete from call_recordings
      where delete_at <= world_now()
      returning call_id
    )
    update calls c
    set recording = 'deleted'
    from old
    where c.id = old.call_id
  `)
  return rowCount ?? 0
}
