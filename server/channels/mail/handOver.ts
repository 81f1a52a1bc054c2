import type { Id } from '#core/instant'
import { newId } from '#shared/newId'
import { db, isTransient } from '../../db/pool'
import { recordEvents, type NewEvent } from '../../engine/recordEvents'
import type { Composed } from './compose'
import type { Delivery, MailChannel } from './transport'
import { sql } from '../../db/sql'

/**
 * How many emails of one loop are on their way at once: being handed over, or taken and not yet noted as taken. No more
 * than these can ever be unknown when a worker ends.
 */
export const IN_FLIGHT = 16
/** How often an email that was put off is tried before a person is asked, and after how many minutes. */
const RETRY_MINUTES = [1, 5, 15, 60]
/** How long a claim holds, in seconds: an email is handed over within the first part of it, or not at all. */
export const CLAIM_SECONDS = 60
const HAND_OVER_WITHIN_SECONDS = 15
/** How long a server may take with one email. With the time to hand it over, less than a claim holds. */
const DELIVERY_SECONDS = 40

/** A composed email that has been claimed. */
export interface ReadyEmail {
  id: Id
  prospectId: Id
  causedByEventId: Id | null
  attempts: number
  versionId: Id | null
  composed: Extract<Composed, { mail: unknown }>
}

/** The worker that sends: its id, the name of its loop, and whether others still see it as alive. */
export interface SendingWorker {
  id: string
  loop?: string
  isAlive?(): boolean
}

/**
 * Hands claimed emails over, a few at a time: each is committed as `sending`, handed over, and noted as taken when the
 * next of its sender begins; the engine gets their events together at the end. Emails that were cancelled or taken back
 * meanwhile are left alone, and so is everything once the claim is old or the worker no longer counts as alive: others
 * see to those.
 */
export async function handOver(
  channel: MailChannel,
  worker: SendingWorker,
  emails: readonly ReadyEmail[],
): Promise<void> {
  const claimedAt = performance.now()
  const holds = () => performance.now() - claimedAt < HAND_OVER_WITHIN_SECONDS * 1_000 && (worker.isAlive?.() ?? true)
  const goOn = together((moves: Move[]) => noteMoves(worker.id, moves))
  const finish = together(record)
  const waiting = [...emails]
  const left: Id[] = []
  const taken: Delivered[] = []
  const priority = async () => {
    let accepted: Id | null = null
    for (let email = waiting.shift(); email; email = waiting.shift()) {
      if (!holds()) {
        left.push(email.id)
        continue
      }
      const begun = await goOn({ accepted, next: email.id })
      accepted = null
      if (!begun) continue
      const delivery = await deliver(channel, email)
      if (delivery.status !== 'sent') await finish({ email, delivery })
      else {
        accepted = email.id
        taken.push({ email, delivery })
      }
    }
    if (accepted) await goOn({ accepted, next: null })
  }
  await Promise.all(Array.from({ length: Math.min(IN_FLIGHT, emails.length) }, priority))
  if (taken.length) await record(taken)
  if (left.length) await releaseClaims(worker.id, { ids: left })
}

/** Collects what is asked for while a call is on its way, and asks for it together in the next. */
function together<T, R>(work: (items: T[]) => Promise<R[]>): (item: T) => Promise<R> {
  let waiting: { item: T; resolve(result: R): void; reject(error: unknown): void }[] = []
  let running = false
  const run = async () => {
    running = true
    await Promise.resolve()
    while (waiting.length) {
      const batch = waiting
      waiting = []
      await work(batch.map((entry) => entry.item)).then(
        (results) => batch.forEach((entry, index) => entry.resolve(results[index]!)),
        (error: unknown) => batch.forEach((entry) => entry.reject(error)),
      )
    }
    running = false
  }
  return (item) =>
    new Promise((resolve, reject) => {
      waiting.push({ item, resolve, reject })
      if (!running) void run()
    })
}

/** What came of one sender’s turn: an email the server has taken, and the next one to hand over. */
interface Move {
  accepted: Id | null
  next: Id | null
}

/**
 * Notes which emails the server has taken (should the worker end now, they are known to be sent) and which are about to
 * be handed over. Gives, for each move, whether its next email may be handed over.
 */
async function noteMoves(workerId: string, moves: Move[]): Promise<boolean[]> {
  const { rows } = await untilDatabaseIsBack(() =>
    db().query<{ id: Id }>({
      name: 'note-moves',
      text: sql`
        with accepted as (
          update email_messages
          set accepted_at = now()
          where id = any($2::uuid[])
        )
        update email_messages
        set status = 'sending', claimed_at = now(), accepted_at = null, attempts = attempts + 1
        where id = any($3::uuid[]) and status = 'queued' and claimed_by = $1
        returning id
      `,
      values: [workerId, moves.flatMap((move) => move.accepted ?? []), moves.flatMap((move) => move.next ?? [])],
    }),
  )
  const begun = new Set(rows.map((row) => row.id))
  return moves.map((move) => move.next !== null && begun.has(move.next))
}

/** Does what must not be lost, again and again while the database is away, for half a minute. */
async function untilDatabaseIsBack<T>(work: () => Promise<T>): Promise<T> {
  for (let tries = 0; ; tries++) {
    try {
      return await work()
    } catch (error) {
      if (!isTransient(error) || tries >= 60) throw error
      await new Promise((resolve) => setTimeout(resolve, 500))
    }
  }
}

async function deliver(channel: MailChannel, email: ReadyEmail): Promise<Delivery> {
  let timer: NodeJS.Timeout | undefined
  const tooLong = new Promise<Delivery>((resolve) => {
    timer = setTimeout(
      () => resolve({ status: 'unconfirmed', lastError: 'The mail server took too long to answer' }),
      DELIVERY_SECONDS * 1_000,
    )
  })
  return Promise.race([channel.deliver(email.composed.mail), tooLong]).finally(() => clearTimeout(timer))
}

interface Delivered {
  email: ReadyEmail
  delivery: Delivery
}

/** Writes down what became of emails, together; where that fails for one of them, one by one. */
async function record(delivered: Delivered[]): Promise<null[]> {
  try {
    await untilDatabaseIsBack(() => recordTogether(delivered))
  } catch (error) {
    if (delivered.length === 1 || isTransient(error)) throw error
    for (const one of delivered) await record([one])
  }
  return delivered.map(() => null)
}

async function recordTogether(delivered: readonly Delivered[]): Promise<void> {
  const events: NewEvent[] = []
  const again: { id: Id; minutes: number; lastError: string }[] = []
  for (const { email, delivery } of delivered) {
    const about = {
      id: newId(),
      prospectId: email.prospectId,
      actorId: null,
      causedByEventId: email.causedByEventId,
      messageId: email.id,
    }
    const minutes = RETRY_MINUTES[email.attempts - 1]
    if (delivery.status === 'sent') events.push({ ...about, kind: 'emailSent' })
    else if (delivery.status === 'unconfirmed') events.push({ ...about, kind: 'emailUnconfirmed' })
    else if (delivery.status === 'deferred' && minutes !== undefined) {
      again.push({ id: email.id, minutes, lastError: delivery.lastError })
    } else events.push({ ...about, kind: 'emailFailed', permanent: delivery.status === 'refused' })
  }
  if (events.length) await recordEvents(events)
  if (again.length) await putOff(again)
}

const BACK_TO_THE_QUEUE = sql`
  insert into scheduled_actions (ref_id, kind, at, prospect_id)
  select id, 'email', send_at, prospect_id
  from back
  on conflict (ref_id) do update set at = excluded.at, kind = excluded.kind
`

/** Puts email that was certainly not taken back into the queue, for a while later. */
export async function putOff(emails: readonly { id: Id; minutes: number; lastError: string }[]): Promise<void> {
  await db().query(
    sql`
      with r as (
        select *
        from jsonb_to_recordset($1::jsonb) as r(id uuid, minutes int, "lastError" text)
      ),
      back as (
        update email_messages m
        set
          status = 'queued', claimed_by = null, claimed_at = null, last_error = r."lastError",
          send_at = world_now() + make_interval(mins => r.minutes)
        from r
        where m.id = r.id and m.status = 'sending'
        returning m.id, m.send_at, m.prospect_id
      )${BACK_TO_THE_QUEUE}
    `,
    [JSON.stringify(emails)],
  )
}

/**
 * Gives email that a worker has claimed and not yet handed over back to the queue; all of it where no ids are given, or
 * with `oldOnly` what it claimed longer ago than a claim holds. Gives how many.
 */
export async function releaseClaims(
  workerId: string,
  { ids = null, oldOnly = false }: { ids?: readonly Id[] | null; oldOnly?: boolean } = {},
): Promise<number> {
  const { rowCount } = await db().query(
    sql`
      with back as (
        update email_messages m
        set claimed_by = null, claimed_at = null
        where m.claimed_by = $1
          and m.status = 'queued'
          and ($2::uuid[] is null or m.id = any($2))
          and (not $3 or m.claimed_at < now() - make_interval(secs => $4))
        returning m.id, m.send_at, m.prospect_id
      )${BACK_TO_THE_QUEUE}
    `,
    [workerId, ids, oldOnly, CLAIM_SECONDS],
  )
  return rowCount ?? 0
}
