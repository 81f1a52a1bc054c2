import { isCallable } from '#core/calendar/callingHours'
import { momentInWords } from '#core/engine/explain'
import { nextCallable } from '#core/calendar/callingHours'
import { placeOf, usablePhones } from '#core/engine/state/engineState'
import { whyNoCall, whyStopped } from '#core/engine/moves/stops'
import type { Id } from '#core/instant'
import { line } from '../../channels/phone/line'
import { breaksUnique, db } from '../../db/pool'
import { load } from '../../engine/load'
import { playbook } from '../../engine/playbook'
import { mustSee } from '../access/access'
import { notFound, Refusal } from '../access/errors'
import { readerOf, type Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

/**
 * Rings someone. Asked again at the moment of dialing: stops, wishes, and the hour where they are. The call is written
 * down before it rings; asked for a second time with the same id (the answer was lost), the same call is given.
 */
export async function dial(
  viewer: Viewer,
  { id, prospectId, phoneId }: { id: Id; prospectId: Id; phoneId: Id | null },
): Promise<{ id: Id; phoneId: Id; number: string }> {
  await mustSee(viewer, prospectId)
  const before = await callOf(viewer, id)
  if (before) return before
  const { state, playbookVersion } = await load(db(), [prospectId])
  const book = await playbook(db(), playbookVersion)
  const prospect = state.prospect[prospectId]!
  const why = whyStopped(state, prospect, false) ?? whyNoCall(state, prospect)
  if (why) throw new Refusal('refused', `Not called: ${why}`)
  const phone = usablePhones(state, prospectId).find((row) => phoneId === null || row.id === phoneId)
  if (!phone) throw new Refusal('refused', 'This number is marked do not call')
  if (!isCallable(state.now, book.callHours, placeOf(prospect), book.holidays)) {
    const opens = nextCallable(state.now, book.callHours, placeOf(prospect), book.holidays)
    const opensAt = momentInWords(opens, readerOf(viewer, state.now))
    throw new Refusal('refused', `Outside calling hours there. Call from ${opensAt} your time`)
  }
  try {
    await db().query(
      sql`
        insert into calls (id, user_id, prospect_id, phone_id, started_at)
        values ($1, $2, $3, $4, world_now())
      `,
      [id, viewer.id, prospectId, phone.id],
    )
  } catch (error) {
    if (breaksUnique(error, 'calls_pkey')) throw new Refusal('conflict', 'This call has already been started')
    throw error
  }
  try {
    const lineRef = await line().dial(phone.number)
    await db().query(sql`update calls set line_ref = $2 where id = $1`, [id, lineRef])
  } catch (error) {
    await db().query(sql`update calls set ended_at = world_now() where id = $1`, [id])
    throw error
  }
  return { id, phoneId: phone.id, number: phone.number }
}

/** A call that has been made under this id; null for none. */
async function callOf(viewer: Viewer, id: Id): Promise<{ id: Id; phoneId: Id; number: string } | null> {
  const row = await firstRow(
    db().query<{ phoneId: Id; number: string }>(
      sql`
        select c.phone_id as "phoneId", n.number
        from calls c
          join phones n on n.id = c.phone_id
        where c.id = $1 and c.user_id = $2 and c.line_ref is not null
      `,
      [id, viewer.id],
    ),
  )
  return row ? { id, ...row } : null
}

async function lineRefOf(viewer: Viewer, id: Id): Promise<string> {
  const row = await firstRow(
    db().query<{ line_ref: string }>(
      sql`
        select line_ref
        from calls
        where id = $1 and user_id = $2 and line_ref is not null
      `,
      [id, viewer.id],
    ),
  )
  if (!row) throw notFound('call')
  return row.line_ref
}

/** What the line says of the viewer's own call. `since` is in the machine's time, for a stopwatch. */
export async function callState(viewer: Viewer, id: Id) {
  return line().status(await lineRefOf(viewer, id))
}

/** Ends the viewer's own call. */
export async function hangUp(viewer: Viewer, id: Id): Promise<void> {
  await line().hangUp(await lineRefOf(viewer, id))
  await db().query(sql`update calls set ended_at = coalesce(ended_at, world_now()) where id = $1`, [id])
}
