import { randomUUID } from 'node:crypto'
import type { PoolClient } from 'pg'
import { allotSlots, type Sender } from '#core/cadence/allot'
import type { Playbook } from '#core/engine/playbook'
import { placeOf, type MailKind, type Message, type Situation } from '#core/engine/situation'
import { mailKindOf, whyNoEmail, whyStopped } from '#core/engine/stops'
import type { Id, Instant } from '#core/instant'
import { db, transaction } from '../../db/pool'
import { readMailParts } from '../../db/mail'
import { happen, prepareFree, settle, type Told } from '../../engine/happen'
import { compose, type Composed } from './compose'
import type { Delivery, MailChannel } from './transport'

/** How many mails are claimed in one transaction. */
const BATCH = 100
/** How often a mail that was put off is tried before a person is asked, and after how many minutes. */
const RETRY_MINUTES = [1, 5, 15, 60]

interface Claimed { ref_id: Id, prospect_id: Id, cause_id: Id | null, slotted: boolean, mail_kind: MailKind | null }
interface Ready { id: Id, prospectId: Id, causeId: Id | null, attempts: number, composed: Extract<Composed, { mail: unknown }> }

/**
 * Sends the mail that is due, up to a batch; gives how many left the queue or were given a later moment. Each mail is
 * committed as `sending` before it is handed over and as `sent` after; no transaction is held across SMTP. Where the
 * process dies in between, `recoverMail` settles what became of it.
 */
export async function sendDueMail(channel: MailChannel, workerId: string): Promise<number> {
  const { claimed, ready } = await claim(workerId)
  const deliveries = await Promise.all(ready.map(async mail => ({ mail, delivery: await channel.deliver(mail.composed.mail) })))
  await record(deliveries)
  return claimed
}

async function claim(workerId: string): Promise<{ claimed: number, ready: Ready[] }> {
  return transaction(async (client, later) => {
    const { rows } = await client.query<Claimed>({
      name: 'claim-mail',
      text: `select a.ref_id, a.prospect_id, a.cause_id, m.slotted, m.mail_kind from agenda a join messages m on m.id = a.ref_id
        where a.kind = 'mail' and a.at <= world_now() order by a.at, a.ref_id limit $1 for update of a skip locked`,
      values: [BATCH],
    })
    if (!rows.length) return { claimed: 0, ready: [] }
    const { situation, playbook } = await prepareFree(client, [...new Set(rows.map(row => row.prospect_id))], rows.map(row => row.ref_id))
    const held = rows.filter(row => situation.prospect[row.prospect_id])
    const reasons = new Map(held.map(row => [row.ref_id, whyNot(situation, playbook, situation.message[row.ref_id]!, row.mail_kind)]))
    const [may, mayNot] = split(held, row => !reasons.get(row.ref_id))
    const told: Told[] = mayNot.map(row => ({ id: randomUUID(), kind: 'emailStopped', prospectId: row.prospect_id, actorId: null, causeId: row.cause_id, messageId: row.ref_id, why: reasons.get(row.ref_id)! }))
    const now = await giveSlots(client, may, situation, playbook)
    const { ready, lacking } = await fillIn(client, now)
    told.push(...lacking.map(({ row }): Told => ({ id: randomUUID(), kind: 'emailHeld', prospectId: row.prospect_id, actorId: null, causeId: row.cause_id, messageId: row.ref_id })))
    if (told.length) settle(client, later, told, situation, playbook)
    if (lacking.length) {
      await client.query(`update messages m set trouble = r.trouble from jsonb_to_recordset($1::jsonb) as r(id uuid, trouble text) where m.id = r.id`,
        [JSON.stringify(lacking.map(({ row, missing }) => ({ id: row.ref_id, trouble: `No ${missing.join(', ').replaceAll('_', ' ')}, and the template has no fallback for it` })))])
    }
    if (ready.length) {
      await client.query(`with gone as (delete from agenda where ref_id = any($3::uuid[]))
        update messages m set state = 'sending', subject = r.subject, body = r.body, header_id = r.header, claimed_by = $2, attempts = attempts + 1, trouble = null
        from jsonb_to_recordset($1::jsonb) as r(id uuid, subject text, body text, header text) where m.id = r.id`,
      [JSON.stringify(ready.map(({ id, composed }) => ({ id, subject: composed.subject, body: composed.body, header: composed.headerId }))), workerId, ready.map(mail => mail.id)])
    }
    return { claimed: held.length, ready }
  }, { planned: true })
}

function split<T>(items: readonly T[], test: (item: T) => boolean): [T[], T[]] {
  return [items.filter(test), items.filter(item => !test(item))]
}

/** Why a mail may not leave after all; asked again at the moment of sending. */
function whyNot(situation: Situation, playbook: Playbook, message: Message, kind: MailKind | null): string | null {
  const prospect = situation.prospect[message.prospectId]!
  const enrollment = message.enrollmentId ? situation.enrollment[message.enrollmentId] : null
  if (message.kind === 'step' && enrollment?.state !== 'active') return 'The cadence has ended'
  const cold = enrollment ? playbook.cadences[enrollment.cadenceId]?.cold ?? false : false
  return whyStopped(situation, prospect, cold) ?? whyNoEmail(situation, prospect, message.kind === 'step' ? mailKindOf(cold) : kind)
}

interface SenderRow { id: Id, zone: string, cap: number, spacing: number, day: string | null, given: number, last: Instant | null }

/** Mail to many goes when it was told to; cap and spacing hold for it too. */
const ANY_TIME = { days: [1, 2, 3, 4, 5, 6, 7], from: 0, to: 1440 }

/** Gives mail of cadences and to many its moment within its sender's cap and spacing; gives back what may leave now. */
async function giveSlots(client: PoolClient, rows: readonly Claimed[], situation: Situation, playbook: Playbook): Promise<Claimed[]> {
  const senderOf = (row: Claimed) => situation.message[row.ref_id]!.senderId
  const [wanting, free] = split(rows, row => !row.slotted && ['step', 'bulk'].includes(situation.message[row.ref_id]!.kind) && senderOf(row) !== null)
  const ids = [...new Set(wanting.map(senderOf))].sort()
  if (!ids.length) return free
  await client.query('insert into mail_senders (user_id) select unnest($1::uuid[]) on conflict do nothing', [ids])
  const { rows: senders } = await client.query<SenderRow>(`select s.user_id as id, u.zone, u.daily_mail_cap as cap, u.mail_spacing_s as spacing, to_char(s.day, 'YYYY-MM-DD') as day, s.given, ms(s.last_slot_at) as last
    from mail_senders s join users u on u.id = s.user_id where s.user_id = any($1::uuid[]) order by s.user_id for update of s`, [ids])
  const slots: Record<Id, Instant> = {}
  const used: object[] = []
  for (const row of senders) {
    const before: Sender = { zone: row.zone, cap: row.cap, spacing: row.spacing, day: row.day, given: row.given, lastSlotAt: row.last }
    const wanted = wanting.filter(mail => senderOf(mail) === row.id).map((mail) => {
      const message = situation.message[mail.ref_id]!
      const window = message.enrollmentId ? playbook.cadences[situation.enrollment[message.enrollmentId]!.cadenceId]!.window : ANY_TIME
      return { id: message.id, window, place: placeOf(situation.prospect[message.prospectId]!) }
    })
    const given = allotSlots(wanted, before, situation.now, playbook.holidays)
    Object.assign(slots, given.slots)
    used.push({ id: row.id, day: given.sender.day, given: given.sender.given, last: given.sender.lastSlotAt })
  }
  await client.query(`update mail_senders s set day = r.day, given = r.given, last_slot_at = from_ms(r.last) from jsonb_to_recordset($1::jsonb) as r(id uuid, day date, given int, last bigint) where s.user_id = r.id`, [JSON.stringify(used)])
  const later = wanting.filter(row => slots[row.ref_id]! > situation.now)
  await client.query(`with slot as (select * from jsonb_to_recordset($1::jsonb) as r(id uuid, at bigint)),
      moved as (update agenda a set at = from_ms(s.at) from slot s where a.ref_id = s.id and from_ms(s.at) > world_now())
    update messages m set slotted = true, send_at = from_ms(s.at) from slot s where m.id = s.id`,
  [JSON.stringify(wanting.map(row => ({ id: row.ref_id, at: slots[row.ref_id] })))])
  return [...free, ...wanting.filter(row => !later.includes(row))]
}

async function fillIn(client: PoolClient, rows: readonly Claimed[]): Promise<{ ready: Ready[], lacking: { row: Claimed, missing: string[] }[] }> {
  const parts = await readMailParts(client, rows.map(row => row.ref_id))
  const ready: Ready[] = []
  const lacking: { row: Claimed, missing: string[] }[] = []
  for (const row of rows) {
    const mail = parts.get(row.ref_id)!
    const composed = compose(mail)
    if ('missing' in composed) lacking.push({ row, missing: composed.missing })
    else ready.push({ id: row.ref_id, prospectId: row.prospect_id, causeId: row.cause_id, attempts: mail.attempts + 1, composed })
  }
  return { ready, lacking }
}

/** Writes down what became of a batch: sent mail goes to the engine together, what was put off waits for its next try. */
async function record(deliveries: readonly { mail: Ready, delivery: Delivery }[]): Promise<void> {
  const told: Told[] = []
  const again: { id: Id, minutes: number, trouble: string }[] = []
  for (const { mail, delivery } of deliveries) {
    const about = { id: randomUUID(), prospectId: mail.prospectId, actorId: null, causeId: mail.causeId, messageId: mail.id }
    const minutes = RETRY_MINUTES[mail.attempts - 1]
    if (delivery.state === 'sent') told.push({ ...about, kind: 'emailSent' })
    else if (delivery.state === 'unconfirmed') told.push({ ...about, kind: 'emailUnconfirmed' })
    else if (delivery.state === 'deferred' && minutes !== undefined) again.push({ id: mail.id, minutes, trouble: delivery.trouble })
    else told.push({ ...about, kind: 'emailFailed', permanent: delivery.state === 'refused' })
  }
  if (told.length) await happen(told)
  if (again.length) await putOff(again)
}

/** Puts mail that was certainly not taken back into the queue, for a while later. */
export async function putOff(mails: readonly { id: Id, minutes: number, trouble: string }[]): Promise<void> {
  await db().query(`with r as (select * from jsonb_to_recordset($1::jsonb) as r(id uuid, minutes int, trouble text)),
      back as (update messages m set state = 'queued', claimed_by = null, trouble = r.trouble, send_at = world_now() + make_interval(mins => r.minutes)
        from r where m.id = r.id and m.state = 'sending' returning m.id, m.send_at, m.prospect_id)
    insert into agenda (ref_id, kind, at, prospect_id) select id, 'mail', send_at, prospect_id from back
    on conflict (ref_id) do update set at = excluded.at, kind = excluded.kind`, [JSON.stringify(mails)])
}

/**
 * Settles the mail of a worker that died while sending: what the server can prove it did not take goes back to the
 * queue, what it took is sent, and where nobody can tell it is held on a Desk as "may have gone out".
 */
export async function recoverMail(channel: MailChannel, deadWorkerId: string): Promise<number> {
  const { rows } = await db().query<{ id: Id, prospect_id: Id, header_id: string }>(`select id, prospect_id, header_id from messages where state = 'sending' and claimed_by = $1`, [deadWorkerId])
  for (const row of rows) {
    const taken = await channel.wasTaken(row.header_id)
    const about = { id: randomUUID(), prospectId: row.prospect_id, actorId: null, causeId: null, messageId: row.id }
    if (taken === false) await putOff([{ id: row.id, minutes: 0, trouble: 'The sending process ended before the server took it' }])
    else await happen([{ ...about, kind: taken ? 'emailSent' : 'emailUnconfirmed' }])
  }
  return rows.length
}
