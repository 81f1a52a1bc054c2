import { isCallable } from '#core/calendar/callingHours'
import { momentInWords } from '#core/engine/explain'
import { nextCallable } from '#core/calendar/callingHours'
import { placeOf, usablePhones, type EngineState, type Phone } from '#core/engine/state/engineState'
import type { Playbook } from '#core/engine/state/playbook'
import { whyNoCall, whyStopped } from '#core/engine/moves/stops'
import type { DialerKind } from '#core/enumerations'
import type { Id, Instant } from '#core/instant'
import { telUri } from '#core/text/phone'
import { dialer } from '../../channels/phone/dialer'
import { breaksUnique, db, type Db } from '../../db/pool'
import { sayUserChanged } from '../../db/userChanges'
import { load } from '../../engine/load'
import { playbook } from '../../engine/playbook'
import { mustSee } from '../access/access'
import { notFound, Refusal } from '../access/errors'
import { readerOf, type Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

/** A call that was started; `uri` is what the user's own phone dials, null for a call of the dialer. */
interface Dialed {
  id: Id
  phoneId: Id
  number: string
  uri: string | null
  /** Whether it is recorded, which the exchange announces. */
  recorded: boolean
  /** Whether the stream of changes says when the call is in another state; otherwise it has to be asked for. */
  reported: boolean
}

interface Asked {
  state: EngineState
  prospectId: Id
  phoneId: Id | null
  book: Playbook
}
type Callable = { phone: Phone; why: null } | { phone: null; why: string }

/**
 * Whether someone may be called now, and on which number: stops, wishes, and the hour where they are. Otherwise why
 * not, in words for the viewer.
 */
export function whetherCallable({ state, prospectId, phoneId, book }: Asked, viewer: Viewer): Callable {
  const prospect = state.prospect[prospectId]!
  const no = (why: string): Callable => ({ phone: null, why })
  const stop = whyStopped(state, prospect, false) ?? whyNoCall(state, prospect)
  if (stop) return no(`Not called: ${stop}`)
  const phone = usablePhones(state, prospectId).find((row) => phoneId === null || row.id === phoneId)
  if (!phone) return no('This number is marked do not call')
  if (isCallable(state.now, book.callHours, placeOf(prospect), book.holidays)) return { phone, why: null }
  const opens = nextCallable(state.now, book.callHours, placeOf(prospect), book.holidays)
  return no(`Outside calling hours there. Call from ${momentInWords(opens, readerOf(viewer, state.now))} your time`)
}

/**
 * Rings someone. Asked again at the moment of dialing: stops, wishes, and the hour where they are. The call is written
 * down before it rings; asked for a second time with the same id (the answer was lost), the same call is given.
 */
export async function dial(
  viewer: Viewer,
  { id, prospectId, phoneId }: { id: Id; prospectId: Id; phoneId: Id | null },
): Promise<Dialed> {
  await mustSee(viewer, prospectId)
  const before = await callOf(viewer, id)
  if (before) return before
  const { state, playbookVersion } = await load(db(), [prospectId])
  const book = await playbook(db(), playbookVersion)
  const { phone, why } = whetherCallable({ state, prospectId, phoneId, book }, viewer)
  if (!phone) throw new Refusal('refused', why)
  const by = dialer(viewer.callsWith ?? 'dialer')
  const recorded = by.kind === 'dialer' && (await recordsCalls())
  try {
    await db().query(
      sql`
        insert into calls (id, user_id, prospect_id, phone_id, started_at, made_with, recording)
        values ($1, $2, $3, $4, world_now(), $5, $6)
      `,
      [id, viewer.id, prospectId, phone.id, by.kind, recorded ? 'on' : null],
    )
  } catch (error) {
    if (breaksUnique(error, 'calls_pkey')) throw new Refusal('conflict', 'This call has already been started')
    throw error
  }
  try {
    const { ref, uri } = await by.dial(id, phone.number, recorded)
    if (ref !== null) await db().query(sql`update calls set line_ref = $2 where id = $1`, [id, ref])
    return { id, phoneId: phone.id, number: phone.number, uri, recorded, reported: by.reports }
  } catch (error) {
    await db().query(sql`update calls set ended_at = world_now() where id = $1`, [id])
    throw error
  }
}

/** Whether the team records its calls. */
export async function recordsCalls(client: Db = db()): Promise<boolean> {
  const team = await firstRow(client.query<{ on: boolean }>(sql`select records_calls as on from team`))
  return team!.on
}

/** Whether a call was started: the line has taken it, or it was given to the user's own phone. */
export const isStarted = (alias: string) => `(${alias}.line_ref is not null or ${alias}.made_with = 'own_phone')`

interface MadeRow {
  phoneId: Id
  number: string
  madeWith: DialerKind
  recorded: boolean
}

/** A call that has been made under this id; null for none. */
async function callOf(viewer: Viewer, id: Id): Promise<Dialed | null> {
  const row = await firstRow(
    db().query<MadeRow>(
      sql`
        select
          c.phone_id as "phoneId", n.number, c.made_with as "madeWith",
          c.recording is not distinct from 'on' as recorded
        from calls c
          join phones n on n.id = c.phone_id
        where c.id = $1 and c.user_id = $2 and ${isStarted('c')}
      `,
      [id, viewer.id],
    ),
  )
  if (!row) return null
  const { madeWith, ...call } = row
  return { id, ...call, uri: madeWith === 'own_phone' ? telUri(row.number) : null, reported: dialer(madeWith).reports }
}

interface CallRow {
  ref: string | null
  madeWith: DialerKind
  /** By the machine's clock, as the line has it. */
  startedAt: Instant
  endedAt: Instant | null
  /** When a voicemail message was left. */
  voicemailAt: Instant | null
}

/** The viewer's own call; throws not_found for any other. */
export async function readCall(viewer: Viewer, id: Id): Promise<CallRow> {
  const row = await firstRow(
    db().query<CallRow>(
      sql`
        select
          line_ref as ref, made_with as "madeWith", ms(now() - (world_now() - started_at)) as "startedAt",
          ms(now() - (world_now() - ended_at)) as "endedAt", ms(voicemail_at) as "voicemailAt"
        from calls c
        where id = $1 and user_id = $2 and ${isStarted('c')}
      `,
      [id, viewer.id],
    ),
  )
  if (!row) throw notFound('call')
  return row
}

/** How the viewer's own call goes. `since` is in the machine's time, for a stopwatch. */
export async function callState(viewer: Viewer, id: Id) {
  const { madeWith, ...made } = await readCall(viewer, id)
  return dialer(madeWith).status(made)
}

/** A call is in another state, as the exchange says: the browsers of who makes it ask for it. */
export async function callChanged(id: Id): Promise<void> {
  const call = await firstRow(
    db().query<{ userId: Id }>(sql`select user_id as "userId" from calls where id = $1`, [id]),
  )
  if (call) sayUserChanged(db(), 'line', [call.userId])
}

/** Ends the viewer's own call; one on their own phone is noted as over. */
export async function hangUp(viewer: Viewer, id: Id): Promise<void> {
  const { madeWith, ref } = await readCall(viewer, id)
  await dialer(madeWith).hangUp(ref)
  await db().query(sql`update calls set ended_at = coalesce(ended_at, world_now()) where id = $1`, [id])
}
