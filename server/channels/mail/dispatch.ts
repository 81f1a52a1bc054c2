import type { PoolClient } from 'pg'
import type { EmailType } from '#core/enumerations'
import { allotSlots, type SlotWait, type WantsSlot } from '#core/cadence/allot'
import { isOpen, type Hours } from '#core/calendar/window'
import { placeOfWindow, senderPlace, type SendingWindow } from '#core/calendar/sendingWindow'
import { breadthOnTheWay } from '#core/engine/breadth'
import type { Playbook } from '#core/engine/state/playbook'
import { placeOf, type EmailMessage, type EngineState } from '#core/engine/state/engineState'
import { emailTypeOf } from '#core/cadence/steps'
import { whyNoEmail, whyStopped } from '#core/engine/moves/stops'
import type { Id, Instant } from '#core/instant'
import { newId } from '#shared/newId'
import { readMailParts } from './mailParts'
import { readSenders, type SenderState } from './senders'
import { describeError, doDueWork, type DueEntry } from '../../engine/dueWork'
import { currentPlaybook } from '../../engine/playbook'
import { prepareFree, reactAndWrite, type NewEvent } from '../../engine/recordEvents'
import { compose, type Composed } from './compose'
import { handOver, type ReadyEmail, type SendingWorker } from './handOver'
import type { MailChannel } from './transport'
import { sql } from '../../db/sql'

/** How many emails are claimed in one transaction. They are handed over a few at a time (see handOver). */
const BATCH = 100

interface Claimed extends DueEntry {
  slotted: boolean
  email_type: EmailType | null
}

/**
 * Sends the email that is due, up to a batch; gives how many left the queue or were given a later moment. What is
 * claimed is still queued; each email is committed as `sending` before it is handed over and as `sent` after, and no
 * transaction is held across SMTP. Where the process ends in between, server/channels/mail/recover settles it.
 */
export async function sendDueMail(channel: MailChannel, worker: SendingWorker): Promise<number> {
  const { claimed, ready } = await claim(worker)
  await handOver(channel, worker, ready)
  return claimed
}

async function claim(worker: SendingWorker): Promise<{ claimed: number; ready: ReadyEmail[] }> {
  const claimed = { claimed: 0, ready: [] as ReadyEmail[] }
  await doDueWork(
    'email',
    BATCH,
    worker.loop ? { workerId: worker.id, loop: worker.loop } : null,
    null,
    async (client, later, entries) => {
      const [{ rows: details }, { state, playbook }] = await Promise.all([
        client.query<{ id: Id; slotted: boolean; email_type: EmailType | null }>({
          name: 'claimed-mail',
          text: sql`select id, slotted, email_type from email_messages where id = any($1::uuid[])`,
          values: [entries.map((row) => row.ref_id)],
        }),
        prepareFree(
          client,
          [...new Set(entries.map((row) => row.prospect_id))],
          entries.map((row) => row.ref_id),
          breadthOnTheWay(await currentPlaybook(client)),
        ),
      ])
      const byId = new Map(details.map((row) => [row.id, row]))
      const waits = entries.filter((row) => isPaused(state, playbook, row.ref_id)).map((row) => row.ref_id)
      // Email of a paused cadence stays queued; resuming the cadence makes it due again.
      if (waits.length) {
        await client.query(sql`delete from scheduled_actions where ref_id = any($1::uuid[]) and kind = 'email'`, [
          waits,
        ])
      }
      const held = entries
        .filter((row) => state.prospect[row.prospect_id] && !waits.includes(row.ref_id))
        .map((row): Claimed => ({
          ...row,
          slotted: byId.get(row.ref_id)!.slotted,
          email_type: byId.get(row.ref_id)!.email_type,
        }))
      const reasons = new Map(
        held.map((row) => [row.ref_id, whyNot(state, playbook, state.emailMessage[row.ref_id]!, row.email_type)]),
      )
      const [may, mayNot] = split(held, (row) => !reasons.get(row.ref_id))
      const events: NewEvent[] = mayNot.map((row) => ({
        id: newId(),
        kind: 'emailStopped',
        prospectId: row.prospect_id,
        actorId: null,
        causedByEventId: row.caused_by_event_id,
        messageId: row.ref_id,
        why: reasons.get(row.ref_id)!,
      }))
      const now = await giveSlots(client, may, state, playbook)
      const { ready, blocked } = await fillIn(client, now)
      events.push(
        ...blocked.map(({ row }): NewEvent => ({
          id: newId(),
          kind: 'emailHeld',
          prospectId: row.prospect_id,
          actorId: null,
          causedByEventId: row.caused_by_event_id,
          messageId: row.ref_id,
        })),
      )
      if (events.length) reactAndWrite(client, later, events, state, playbook)
      if (blocked.length) {
        await client.query(
          sql`
            update email_messages m
            set last_error = r."lastError"
            from jsonb_to_recordset($1::jsonb) as r(id uuid, "lastError" text)
            where m.id = r.id
          `,
          [JSON.stringify(blocked.map(({ row, why }) => ({ id: row.ref_id, lastError: why })))],
        )
      }
      if (ready.length) {
        await client.query(
          sql`
            with gone as (
              delete from scheduled_actions
              where ref_id = any($3::uuid[])
            )
            update email_messages m
            set
              subject = r.subject, body = r.body, header_id = r.header, claimed_by = $2, claimed_at = now(),
              last_error = null, version_id = r.version,
              -- What is filled in is not filled in again, should it be put off.
              html = case when m.kind = 'bulk' then r.html else m.html end, written = m.written or m.kind = 'bulk'
            from jsonb_to_recordset($1::jsonb) as r(
              id uuid, subject text, body text, html text, header text, version uuid
            )
            where m.id = r.id
          `,
          [
            JSON.stringify(
              ready.map(({ id, composed, versionId }) => ({
                id,
                subject: composed.subject,
                body: composed.body,
                html: composed.html,
                header: composed.headerId,
                version: versionId,
              })),
            ),
            worker.id,
            ready.map((mail) => mail.id),
          ],
        )
      }
      claimed.claimed += held.length
      claimed.ready.push(...ready)
      return null
    },
  )
  return claimed
}

function split<T>(items: readonly T[], test: (item: T) => boolean): [T[], T[]] {
  return [items.filter(test), items.filter((item) => !test(item))]
}

/** Whether an email is a step of a cadence that is paused. */
function isPaused(state: EngineState, playbook: Playbook, messageId: Id): boolean {
  const enrollment = state.enrollment[state.emailMessage[messageId]?.enrollmentId ?? '']
  return enrollment !== undefined && playbook.cadences[enrollment.cadenceId]?.status === 'paused'
}

/** Why a mail may not leave after all; asked again at the moment of sending. */
function whyNot(state: EngineState, playbook: Playbook, message: EmailMessage, kind: EmailType | null): string | null {
  const prospect = state.prospect[message.prospectId]!
  const enrollment = message.enrollmentId ? state.enrollment[message.enrollmentId] : null
  if (message.kind === 'step' && enrollment?.status !== 'active') return 'The cadence has ended'
  if (state.emailAddress[message.emailAddressId]?.status === 'bounced') return 'The address has bounced'
  const cadence = (enrollment && playbook.cadences[enrollment.cadenceId]) ?? { cold: false }
  return (
    whyStopped(state, prospect, cadence.cold) ??
    whyNoEmail(state, prospect, message.kind === 'step' ? emailTypeOf(cadence) : kind)
  )
}

const ANY_HOURS: Hours = { days: [1, 2, 3, 4, 5, 6, 7], from: 0, to: 1440 }
/** Email to many goes at the time that was chosen; what finds no room then goes in the default window. */
export const TO_MANY: SendingWindow = { hours: ANY_HOURS, clock: 'prospect', holidays: 'prospect' }

/** What an email asks for when it wants its moment. */
function wantsSlot(state: EngineState, playbook: Playbook, message: EmailMessage): WantsSlot {
  const { enrollmentId, id, prospectId, emailAddressId } = message
  const cadence = enrollmentId === null ? null : playbook.cadences[state.enrollment[enrollmentId]!.cadenceId]!
  return {
    id,
    window: cadence?.window ?? TO_MANY,
    ...(!cadence && { later: playbook.defaultWindow }),
    place: placeOf(state.prospect[prospectId]!),
    domain: domainOf(state.emailAddress[emailAddressId]?.address ?? ''),
  }
}

/** The domain of an email address, in lower case. */
export const domainOf = (address: string): string => address.slice(address.lastIndexOf('@') + 1).toLowerCase()

/**
 * Gives email of cadences and to many its moment within its sender's caps and spacing; gives back what may leave now. A
 * moment that lies outside the window by now is given anew.
 */
async function giveSlots(
  client: PoolClient,
  rows: readonly Claimed[],
  state: EngineState,
  playbook: Playbook,
): Promise<Claimed[]> {
  const senderOf = (row: Claimed) => state.emailMessage[row.ref_id]!.senderId
  const wants = new Map(rows.map((row) => [row.ref_id, wantsSlot(state, playbook, state.emailMessage[row.ref_id]!)]))
  const isClosed = (row: Claimed): boolean => {
    const { window, place } = wants.get(row.ref_id)!
    const where = placeOfWindow(window, place, senderPlace(playbook, senderOf(row)))
    return !isOpen(state.now, window.hours, where, playbook.holidays)
  }
  const [wanting, free] = split(
    rows,
    (row) =>
      ['step', 'bulk'].includes(state.emailMessage[row.ref_id]!.kind) &&
      senderOf(row) !== null &&
      (!row.slotted || isClosed(row)),
  )
  const ids = [...new Set(wanting.map(senderOf))].sort()
  if (!ids.length) return free
  await client.query(
    sql`
      insert into email_senders (user_id)
      select unnest($1::uuid[])
      on conflict do nothing
    `,
    [ids],
  )
  const slots: Record<Id, Instant> = {}
  const waits: Record<Id, SlotWait> = {}
  const used: SenderState[] = []
  for (const [id, sender] of await readSenders(client, ids, true)) {
    const wanted = wanting.filter((row) => senderOf(row) === id).map((row) => wants.get(row.ref_id)!)
    const given = allotSlots(wanted, sender, state.now, playbook.holidays)
    Object.assign(slots, given.slots)
    Object.assign(waits, given.waits)
    const { day, domains, daysSent, lastSlotAt: last } = given.sender
    used.push({ id, day, given: given.sender.given, domains, days: daysSent, last })
  }
  await client.query(
    sql`
      update email_senders s
      set day = r.day, given = r.given, domains = r.domains, days_sent = r.days, last_slot_at = from_ms(r.last)
      from jsonb_to_recordset($1::jsonb) as r(id uuid, day date, given int, domains jsonb, days int, last bigint)
      where s.user_id = r.id
    `,
    [JSON.stringify(used)],
  )
  // What has a slot keeps it; what only waits asks again when its window opens, ahead of what comes due then.
  const moves = wanting.map(({ ref_id: id }) => {
    const wait = waits[id]
    const soon = slots[id] !== undefined && slots[id] > state.now ? ('spacing' as const) : null
    return { id, at: slots[id] ?? wait!.at, slotted: id in slots, why: wait?.why ?? soon }
  })
  await client.query(
    sql`
      with slot as (
        select *
        from jsonb_to_recordset($1::jsonb) as r(id uuid, at bigint, slotted boolean, why text)
      ),
      moved as (
        update scheduled_actions a
        set at = from_ms(s.at), first_at = coalesce(a.first_at, a.at)
        from slot s
        where a.ref_id = s.id and from_ms(s.at) > world_now()
      )
      update email_messages m
      set slotted = s.slotted, send_at = from_ms(s.at), waits_for = s.why
      from slot s
      where m.id = s.id
    `,
    [JSON.stringify(moves)],
  )
  return [...free, ...wanting.filter((row) => slots[row.ref_id] !== undefined && slots[row.ref_id]! <= state.now)]
}

/** Fills in each email by itself: one that cannot be is blocked with its reason, and the others go. */
async function fillIn(
  client: PoolClient,
  rows: readonly Claimed[],
): Promise<{ ready: ReadyEmail[]; blocked: { row: Claimed; why: string }[] }> {
  const parts = await readMailParts(
    client,
    rows.map((row) => row.ref_id),
  )
  const ready: ReadyEmail[] = []
  const blocked: { row: Claimed; why: string }[] = []
  for (const row of rows) {
    const mail = parts.get(row.ref_id)!
    const composed = composeSafely(() => compose(mail))
    if ('blocked' in composed) blocked.push({ row, why: composed.blocked })
    else {
      ready.push({
        id: row.ref_id,
        prospectId: row.prospect_id,
        causedByEventId: row.caused_by_event_id,
        attempts: mail.attempts + 1,
        versionId: mail.versionId,
        composed,
      })
    }
  }
  return { ready, blocked }
}

function composeSafely(work: () => Composed): Composed {
  try {
    return work()
  } catch (error) {
    return { blocked: `This email cannot be composed: ${describeError(error)}` }
  }
}
