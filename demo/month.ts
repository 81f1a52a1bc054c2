import { randomUUID } from 'node:crypto'
import { DateTime } from 'luxon'
import { DAY, MINUTE } from '../core/instant'
import { sendDueMail } from '../server/channels/mail/dispatch'
import type { MailChannel } from '../server/channels/mail/transport'
import { db } from '../server/db/pool'
import { takeDueSteps } from '../server/engine/agenda'
import { happen } from '../server/engine/happen'
import type { OutcomeDetails } from '../shared/api/desk'
import { enroll } from '../server/services/enrollments'
import { logOutcome } from '../server/services/outcomes'
import { finishTask } from '../server/services/tasks'
import type { Viewer } from '../server/services/sessions'
import { stopClock } from './clock'
import { FIRST_NAMES, LAST_NAMES, TITLES } from './names'
import { seeded } from './seeded'

/** A past to live through. */
export interface Month {
  from: number
  to: number
  zone: string
  reps: readonly Viewer[]
  /** People by the rep who owns them. */
  people: ReadonlyMap<string, readonly string[]>
  cadenceIds: readonly string[]
}

const random = seeded(7)
const anyOf = (choices: readonly string[]) => choices[Math.floor(random() * choices.length)]!
const NOTES = ['Two aging rooms, one on paper charts', 'Asked to be called after the audit', 'Direct line, picks up early', 'New room opens in spring', 'Lost a batch last winter']

/** Mail of the past was taken, whoever looks. */
const past: MailChannel = { deliver: async () => ({ state: 'sent' }), wasTaken: async () => true, close() {} }

/**
 * Lives through a month with the engine itself: people are enrolled a few at a time, steps fall due, mail goes, reps log
 * what comes of calls, some answer. The last morning is left as a rep finds it.
 */
export async function workTheMonth(month: Month): Promise<void> {
  const waiting = month.reps.map(rep => ({ rep, ids: [...month.people.get(rep.id) ?? []] }))
  const last = DateTime.fromMillis(month.to).setZone(month.zone).startOf('day')
  for (let day = DateTime.fromMillis(month.from).setZone(month.zone).startOf('day'); day <= last; day = day.plus({ days: 1 })) {
    if (day.weekday > 5) continue
    for (const hour of [9, 11, 13, 15, 17]) {
      const at = day.set({ hour, minute: 10 }).toMillis()
      if (at >= month.to) break
      await stopClock(at)
      if (hour === 9) {
        for (const { rep, ids } of waiting) {
          const next = ids.splice(0, 5)
          if (next.length) await enroll(rep, month.cadenceIds[random() < 0.8 ? 0 : 1]!, { prospectIds: next }, false)
        }
      }
      await catchUp()
      for (const rep of month.reps) await workQueue(rep, at, day.hasSame(last, 'day') ? 3 : last.diff(day, 'days').days < 4 ? 2 : 4)
      await someAnswer(at)
      await catchUp()
    }
  }
  await hotMorning(month)
}

async function catchUp(): Promise<void> {
  for (let busy = true; busy;) busy = Boolean(await takeDueSteps() + await sendDueMail(past, { id: 'past' }))
}

async function workQueue(rep: Viewer, at: number, most: number): Promise<void> {
  const { rows } = await db().query<{ id: string, kind: string, prospect_id: string }>(`select t.id, t.kind, t.prospect_id from tasks t join prospects p on p.id = t.prospect_id
    where t.owner_id = $1 and t.state = 'open' and t.due_at <= world_now() and p.zone like any ('{America/%,Europe/%}') order by t.lane, t.due_at limit $2`, [rep.id, most])
  for (const task of rows) {
    await stopClock(at += 4 * MINUTE)
    if (task.kind === 'call' || task.kind === 'call_back' || task.kind === 'follow_up') await logSomething(rep, task, at)
    else await finishTask(rep, task.id, { id: randomUUID() }).catch(() => {})
  }
}

/** Shares of what comes of a call, roughly as a rep would find them (invented for the demo). */
const SHARES: [name: string, share: number][] = [
  ['No answer', 0.44], ['Left voicemail', 0.24], ['Call back at a time', 0.12], ['Meeting booked', 0.022], ['Not interested', 0.07], ['Not the right person', 0.02], ['Wrong number', 0.03], ['Company not a fit', 0.015], ['Do not call', 0.01],
]

async function logSomething(rep: Viewer, task: { id: string, prospect_id: string }, at: number): Promise<void> {
  let left = random() * SHARES.reduce((sum, [, share]) => sum + share, 0)
  const [name] = SHARES.find(([, share]) => (left -= share) <= 0) ?? SHARES[0]!
  const { rows: [outcome] } = await db().query<{ id: string }>('select id from outcomes where name = $1', [name])
  const noon = DateTime.fromMillis(at).setZone(rep.zone).plus({ days: 2 + Math.floor(random() * 4) }).set({ hour: 11, minute: 30 })
  const weekday = noon.weekday > 5 ? noon.plus({ days: 8 - noon.weekday }) : noon
  const details: OutcomeDetails = {
    ...(name === 'Call back at a time' && { callBackAt: weekday.toMillis() }),
    ...(name === 'Not interested' && { reason: ['No need', 'No budget', 'Bad timing'][Math.floor(random() * 3)]! }),
    ...(name === 'Meeting booked' && { meeting: { title: 'A look at your rooms', startAt: weekday.plus({ days: 3 }).toMillis(), minutes: 30, zone: rep.zone } }),
    ...(name === 'Not the right person' && { referral: { firstName: anyOf(FIRST_NAMES), lastName: anyOf(LAST_NAMES), title: anyOf(TITLES) } }),
    ...(random() < 0.3 && { note: anyOf(NOTES) }),
  }
  // A gate may hold somebody where they are; then it rang out.
  await logOutcome(rep, task.prospect_id, { id: randomUUID(), outcomeId: outcome!.id, taskId: task.id, phoneId: null, details, fingerprint: null }).catch(() => {})
}

const REPLIES = ['Thanks for writing. Who else uses these? Could you send two references?', 'Not this quarter, but ask me again in January.', 'We did have a bad night in March. What does one logger cost?', 'Please talk to whoever runs maintenance; I only sign.']

/** Some of those who were written to within two days open the mail, a few answer. */
async function someAnswer(at: number): Promise<void> {
  const { rows } = await db().query<{ id: string, prospect_id: string }>(`select m.id, m.prospect_id from messages m where m.state = 'sent' and m.kind = 'step' and m.sent_at > world_now() - interval '2 hours'
    and not exists (select from replies r where r.prospect_id = m.prospect_id) order by m.id`)
  for (const message of rows) {
    if (random() < 0.45) await db().query('update messages set opened_at = coalesce(opened_at, world_now()), opens = opens + 1 where id = $1', [message.id])
    if (random() < 0.05) await answer(message, at)
  }
}

async function answer(message: { id: string, prospect_id: string }, at: number): Promise<void> {
  await happen([{ id: randomUUID(), kind: 'emailReplied', prospectId: message.prospect_id, actorId: null, causeId: null, messageId: message.id, at }], { inside: async (client) => {
    await client.query(`insert into replies (id, prospect_id, message_id, subject, body, received_at) values ($1, $2, $3, 'Re: The night the aging room drifted', $4, $5)`, [randomUUID(), message.prospect_id, message.id, REPLIES[Math.floor(random() * REPLIES.length)], new Date(at)])
  } })
}

/** This morning: a few fresh answers, and what was left undone yesterday. */
async function hotMorning(month: Month): Promise<void> {
  for (const [index, rep] of month.reps.entries()) {
    const { rows } = await db().query<{ id: string, prospect_id: string }>(`select distinct on (m.prospect_id) m.id, m.prospect_id from messages m join prospects p on p.id = m.prospect_id join enrollments e on e.id = m.enrollment_id
      where p.owner_id = $1 and m.state = 'sent' and e.state <> 'ended' and m.sent_at > $2 order by m.prospect_id, m.sent_at desc limit 2`, [rep.id, new Date(month.to - 6 * DAY)])
    for (const [nth, message] of rows.entries()) {
      const at = month.to - (index * 9 + nth * 31 + 12) * MINUTE
      await stopClock(at)
      await answer(message, at)
    }
  }
}
