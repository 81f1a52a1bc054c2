import { randomUUID } from 'node:crypto'
import type { Id } from '#core/instant'
import { db, isTransient } from '../../db/pool'
import { happen, type Told } from '../../engine/happen'
import type { Composed } from './compose'
import type { Delivery, MailChannel } from './transport'

/**
 * How many emails of one loop are on their way at once: handed over, or handed over and not yet written down. No more
 * than these can ever be unknown when a worker ends.
 */
export const IN_FLIGHT = 8
/** How often an email that was put off is tried before a person is asked, and after how many minutes. */
const RETRY_MINUTES = [1, 5, 15, 60]
/** How long a claim holds, in seconds: an email is handed over within the first part of it, or not at all. */
export const CLAIM_SECONDS = 60
const HAND_OVER_WITHIN_SECONDS = 15
/** How long a server may take with one email. With the time to hand it over, less than a claim holds. */
const DELIVERY_SECONDS = 40

/** A composed email that has been claimed. */
export interface ReadyEmail { id: Id, prospectId: Id, causeId: Id | null, attempts: number, composed: Extract<Composed, { mail: unknown }> }

/** The worker that sends: its id, the name of its loop, and whether others still see it as alive. */
export interface SendingWorker {
  id: string
  loop?: string
  isAlive?(): boolean
}

/**
 * Hands claimed emails over, a few at a time: each is committed as `sending`, handed over, and what became of it written
 * down, before its place is given to the next. Emails that were cancelled or taken back meanwhile are left alone, and so
 * is everything once the claim is old or the worker no longer counts as alive: others see to those.
 */
export async function handOver(channel: MailChannel, worker: SendingWorker, emails: readonly ReadyEmail[]): Promise<void> {
  const claimedAt = performance.now()
  const holds = () => performance.now() - claimedAt < HAND_OVER_WITHIN_SECONDS * 1_000 && (worker.isAlive?.() ?? true)
  const begin = together((ids: Id[]) => markSending(worker.id, ids))
  const finish = together(record)
  const waiting = [...emails]
  const left: Id[] = []
  const lane = async () => {
    for (let email = waiting.shift(); email; email = waiting.shift()) {
      if (!holds()) left.push(email.id)
      else if (await begin(email.id)) await finish({ email, delivery: await deliver(channel, email) })
    }
  }
  await Promise.all(Array.from({ length: Math.min(IN_FLIGHT, emails.length) }, lane))
  if (left.length) await releaseClaims(worker.id, { ids: left })
}

/** Collects what is asked for while a call is on its way, and asks for it together in the next. */
function together<T, R>(work: (items: T[]) => Promise<R[]>): (item: T) => Promise<R> {
  let waiting: { item: T, resolve(result: R): void, reject(error: unknown): void }[] = []
  let running = false
  const run = async () => {
    running = true
    await Promise.resolve()
    while (waiting.length) {
      const batch = waiting
      waiting = []
      await work(batch.map(entry => entry.item)).then(
        results => batch.forEach((entry, index) => entry.resolve(results[index]!)),
        (error: unknown) => batch.forEach(entry => entry.reject(error)),
      )
    }
    running = false
  }
  return item => new Promise((resolve, reject) => {
    waiting.push({ item, resolve, reject })
    if (!running) void run()
  })
}

async function markSending(workerId: string, ids: Id[]): Promise<boolean[]> {
  const { rows } = await db().query<{ id: Id }>({
    name: 'mark-sending',
    text: `update messages set state = 'sending', claimed_at = now(), attempts = attempts + 1
      where id = any($1::uuid[]) and state = 'queued' and claimed_by = $2
      returning id`,
    values: [ids, workerId],
  })
  const marked = new Set(rows.map(row => row.id))
  return ids.map(id => marked.has(id))
}

async function deliver(channel: MailChannel, email: ReadyEmail): Promise<Delivery> {
  let timer: NodeJS.Timeout | undefined
  const tooLong = new Promise<Delivery>((resolve) => {
    timer = setTimeout(() => resolve({ state: 'unconfirmed', trouble: 'The mail server took too long to answer' }), DELIVERY_SECONDS * 1_000)
  })
  return Promise.race([channel.deliver(email.composed.mail), tooLong]).finally(() => clearTimeout(timer))
}

interface Delivered { email: ReadyEmail, delivery: Delivery }

/** Writes down what became of emails, together; where that fails for one of them, one by one. Waits while the database is away. */
async function record(delivered: Delivered[]): Promise<null[]> {
  const done = delivered.map(() => null)
  for (let tries = 0; ; tries++) {
    try {
      await recordTogether(delivered)
      return done
    }
    catch (error) {
      if (isTransient(error) && tries < 60) await new Promise(resolve => setTimeout(resolve, 500))
      else if (delivered.length === 1) throw error
      else break
    }
  }
  for (const one of delivered) await record([one])
  return done
}

async function recordTogether(delivered: readonly Delivered[]): Promise<void> {
  const told: Told[] = []
  const again: { id: Id, minutes: number, trouble: string }[] = []
  for (const { email, delivery } of delivered) {
    const about = { id: randomUUID(), prospectId: email.prospectId, actorId: null, causeId: email.causeId, messageId: email.id }
    const minutes = RETRY_MINUTES[email.attempts - 1]
    if (delivery.state === 'sent') told.push({ ...about, kind: 'emailSent' })
    else if (delivery.state === 'unconfirmed') told.push({ ...about, kind: 'emailUnconfirmed' })
    else if (delivery.state === 'deferred' && minutes !== undefined) again.push({ id: email.id, minutes, trouble: delivery.trouble })
    else told.push({ ...about, kind: 'emailFailed', permanent: delivery.state === 'refused' })
  }
  if (told.length) await happen(told)
  if (again.length) await putOff(again)
}

const BACK_TO_THE_QUEUE = `insert into agenda (ref_id, kind, at, prospect_id)
  select id, 'mail', send_at, prospect_id from back
  on conflict (ref_id) do update set at = excluded.at, kind = excluded.kind`

/** Puts email that was certainly not taken back into the queue, for a while later. */
export async function putOff(emails: readonly { id: Id, minutes: number, trouble: string }[]): Promise<void> {
  await db().query(`with r as (select * from jsonb_to_recordset($1::jsonb) as r(id uuid, minutes int, trouble text)),
      back as (update messages m set state = 'queued', claimed_by = null, claimed_at = null, trouble = r.trouble, send_at = world_now() + make_interval(mins => r.minutes)
        from r where m.id = r.id and m.state = 'sending' returning m.id, m.send_at, m.prospect_id)
    ${BACK_TO_THE_QUEUE}`, [JSON.stringify(emails)])
}

/**
 * Gives email that a worker has claimed and not yet handed over back to the queue; all of it where no ids are given, or
 * with `oldOnly` what it claimed longer ago than a claim holds. Gives how many.
 */
export async function releaseClaims(workerId: string, { ids = null, oldOnly = false }: { ids?: readonly Id[] | null, oldOnly?: boolean } = {}): Promise<number> {
  const { rowCount } = await db().query(`with back as (update messages m set claimed_by = null, claimed_at = null
        where m.claimed_by = $1 and m.state = 'queued' and ($2::uuid[] is null or m.id = any($2)) and (not $3 or m.claimed_at < now() - make_interval(secs => $4))
        returning m.id, m.send_at, m.prospect_id)
    ${BACK_TO_THE_QUEUE}`, [workerId, ids, oldOnly, CLAIM_SECONDS])
  return rowCount ?? 0
}
