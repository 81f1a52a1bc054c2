import { randomUUID } from 'node:crypto'
import { DateTime } from 'luxon'
import { DAY, MINUTE } from '../core/instant'
import { sendDueMail } from '../server/channels/mail/dispatch'
import type { MailChannel } from '../server/channels/mail/transport'
import { db } from '../server/db/pool'
import { isBusinessDay } from '../core/calendar/local'
import { signedToken } from '../server/channels/mail/addresses'
import { takeDueActions, takeDueSteps } from '../server/engine/dueSteps'
import { holidayTables } from '../server/engine/holidays'
import { recordEvents } from '../server/engine/recordEvents'
import { noteOpened, writeEmail } from '../server/services/email/messages'
import type { OutcomeDetails } from '../shared/api/desk/desk'
import { enroll } from '../server/services/cadences/enrollments'
import { brief } from '../server/services/desk/brief'
import { settleMeeting } from '../server/services/desk/meetings'
import { logOutcome } from '../server/services/desk/outcomes'
import { finishTask } from '../server/services/desk/tasks'
import type { Viewer } from '../server/services/access/viewer'
import { stopClock } from './clock'
import { industryOf, nameOf, TITLES } from './names'
import { seeded } from './seeded'
import { firstRow, sql } from '../server/db/sql'

/** A past to live through. */
export interface Month {
  from: number
  to: number
  timeZone: string
  reps: readonly Viewer[]
  /** People by the rep who owns them. */
  people: ReadonlyMap<string, readonly string[]>
  cadenceIds: readonly string[]
}

const random = seeded(7)
const anyOf = (choices: readonly string[]) => choices[Math.floor(random() * choices.length)]!
const NOTES = [
  'Two aging rooms, one on paper charts',
  'Asked to be called after the audit',
  'Direct line, picks up early',
  'New room opens in spring',
  'Lost a batch last winter',
]

const isWorkday = (day: DateTime) => isBusinessDay(day.toISODate()!, { country: 'US', region: 'NY' }, holidayTables())
/** The same time on the day itself, if it is a working day, else on the next one. */
const workday = (day: DateTime): DateTime => (isWorkday(day) ? day : workday(day.plus({ days: 1 })))
let referrals = 0
/** How often each cadence is chosen, in the order in which they are made; customers are not enrolled here. */
const CADENCE_SHARES = [0.45, 0.13, 0.14, 0.16, 0.12]
function cadenceDrawn(): number {
  let left = random()
  const drawn = CADENCE_SHARES.findIndex((share) => (left -= share) <= 0)
  return Math.max(0, drawn)
}

/** Those of some prospects who are worked: nobody starts a cadence days after a no. */
async function inOpenStages(ids: readonly string[]): Promise<string[]> {
  const { rows } = await db().query<{ id: string }>(
    sql`
      select p.id
      from prospects p
        join stages s on s.id = p.stage_id and s.kind = 'open'
      where p.id = any($1::uuid[])
      order by array_position($1::uuid[], p.id)
    `,
    [ids],
  )
  return rows.map(({ id }) => id)
}

/** Email of the past has been accepted. */
const past: MailChannel = { deliver: async () => ({ status: 'sent' }), wasTaken: async () => true, close() {} }

/**
 * Lives through a month with the engine itself: people are enrolled a few at a time, steps fall due, mail goes, reps
 * log what comes of calls, some answer. The last morning is left as a rep finds it.
 */
export async function workTheMonth(month: Month): Promise<void> {
  const waiting = month.reps.map((rep) => {
    const ids = [...(month.people.get(rep.id) ?? [])]
    // Enough for every working day of the month.
    return { rep, ids, daily: Math.ceil(ids.length / 24) }
  })
  const last = DateTime.fromMillis(month.to).setZone(month.timeZone).startOf('day')
  for (
    let day = DateTime.fromMillis(month.from).setZone(month.timeZone).startOf('day');
    day <= last;
    day = day.plus({ days: 1 })
  ) {
    if (!isWorkday(day)) continue
    for (const hour of [9, 11, 13, 15, 17]) {
      const at = day.set({ hour, minute: 10 }).toMillis()
      if (at >= month.to) break
      await stopClock(at)
      if (hour === 9) {
        for (const { rep, ids, daily } of waiting) {
          const next = await inOpenStages(ids.splice(0, daily))
          if (next.length) await enroll(rep, month.cadenceIds[cadenceDrawn()]!, { prospectIds: next }, false)
        }
      }
      await catchUp()
      const usual = last.diff(day, 'days').days < 4 ? 3 : 5
      const most = day.hasSame(last, 'day') ? 4 : usual
      // Who has more people calls more.
      for (const { rep, daily } of waiting) await workQueue(rep, at, most + (daily > 6 ? 1 : 0))
      await someAnswer(at)
      await catchUp()
    }
    // In the evening it is morning on the other side of the world.
    const evening = day.set({ hour: 20, minute: 40 }).toMillis()
    if (evening < month.to) {
      await stopClock(evening)
      await catchUp()
    }
  }
  await hotMorning(month)
}

/** Does every action, takes every step and sends every email that is due at the stopped clock. */
export async function catchUp(): Promise<void> {
  const work = [takeDueActions, takeDueSteps, () => sendDueMail(past, { id: 'past' })]
  for (let busy = true; busy;) {
    busy = false
    for (const take of work) busy = (await take()) > 0 || busy
  }
}

async function workQueue(rep: Viewer, at: number, most: number): Promise<void> {
  const { rows } = await db().query<{ id: string; kind: string; prospect_id: string }>(
    sql`
      select t.id, t.kind, t.prospect_id
      from tasks t
        join prospects p on p.id = t.prospect_id
      where t.owner_id = $1
        and t.status = 'open'
        and t.due_at <= world_now()
        and p.time_zone like any ('{America/%,Europe/%}')
      order by t.priority, t.due_at
      limit $2
    `,
    [rep.id, most],
  )
  for (const task of rows) {
    await stopClock((at += 4 * MINUTE))
    if (['call', 'call_back', 'follow_up', 'first_contact'].includes(task.kind)) await logSomething(rep, task, at)
    else if (task.kind === 'meeting_result') await holdMeeting(rep, task)
    else if (task.kind === 'email') await sendReviewed(rep, task)
    else await finishTask(rep, task.id, { id: randomUUID() }).catch(() => {})
  }
}

/** Sends the email of a step as it is. */
async function sendReviewed(rep: Viewer, task: { id: string; prospect_id: string }): Promise<void> {
  const { message } = await brief(rep, task.prospect_id, task.id)
  if (!message) return
  const { subject, body } = message
  const email = { id: randomUUID(), subject, body, html: null, attachments: [], taskId: task.id, inReplyTo: null }
  await writeEmail(rep, task.prospect_id, email).catch(() => {})
}

/** Most meetings are held, some by people worth a deal; some do not come. */
async function holdMeeting(rep: Viewer, task: { id: string; prospect_id: string }): Promise<void> {
  const meeting = await firstRow(
    db().query<{ id: string }>(
      sql`
      select a.id
      from meetings a
        join tasks t on t.id = $1
      where a.prospect_id = $2 and a.status = 'booked' and a.end_at = t.due_at
    `,
      [task.id, task.prospect_id],
    ),
  )
  const drawn = random()
  const good = drawn < 0.55 ? ('held' as const) : ('qualified' as const)
  const result = drawn < 0.82 ? good : ('no_show' as const)
  if (meeting) await settleMeeting(rep, meeting.id, { id: randomUUID(), result }).catch(() => {})
}

/** Shares of what comes of a call, roughly as a rep would find them (invented for the demo). */
const SHARES: [name: string, share: number][] = [
  ['No answer', 0.44],
  ['Left voicemail', 0.24],
  ['Call back at a time', 0.12],
  ['Meeting booked', 0.022],
  ['Not interested', 0.07],
  ['Not the right person', 0.02],
  ['Wrong number', 0.03],
  ['Company not a fit', 0.005],
  ['Do not call', 0.01],
]

/** What comes of a call at an hour: who is called at a good one where they are is spoken to more often. */
async function sharesAt(prospectId: string, at: number): Promise<typeof SHARES> {
  const row = await firstRow(
    db().query<{ timeZone: string; company: string | null }>(
      sql`
        select p.time_zone as "timeZone", c.name as company
        from prospects p
          left join companies c on c.id = p.company_id
        where p.id = $1
      `,
      [prospectId],
    ),
  )
  const { hour, weekday } = DateTime.fromMillis(at).setZone(row!.timeZone)
  const isGood = industryOf(row!.company ?? '').early ? hour < 10 : hour >= 15
  const quiet = (isGood ? 0.35 : 1.5) * (weekday === 1 ? 1.3 : 1)
  return SHARES.map(([name, share], index) => [name, index < 2 ? share * quiet : share])
}

async function logSomething(rep: Viewer, task: { id: string; prospect_id: string }, at: number): Promise<void> {
  const shares = await sharesAt(task.prospect_id, at)
  let left = random() * shares.reduce((sum, [, share]) => sum + share, 0)
  const [name] = shares.find(([, share]) => (left -= share) <= 0) ?? shares[0]!
  const outcome = await firstRow(db().query<{ id: string }>(sql`select id from outcomes where name = $1`, [name]))
  const later = workday(
    DateTime.fromMillis(at)
      .setZone(rep.timeZone)
      .plus({ days: 2 + Math.floor(random() * 4) })
      .set({ hour: 11, minute: 30 }),
  )
  const referred = () => {
    const { first, last } = nameOf(700 + referrals++, 11)
    return { firstName: first, lastName: last, title: anyOf(TITLES) }
  }
  const details: OutcomeDetails = {
    ...(name === 'Call back at a time' && { callBackAt: later.toMillis() }),
    ...(name === 'Not interested' && { reason: ['No need', 'No budget', 'Bad timing'][Math.floor(random() * 3)]! }),
    ...(name === 'Meeting booked' && {
      meeting: {
        title: 'A look at your rooms',
        startAt: workday(later.plus({ days: 3 })).toMillis(),
        minutes: 30,
        timeZone: rep.timeZone,
      },
    }),
    ...(name === 'Not the right person' && { referral: referred() }),
    ...(random() < 0.3 && { note: anyOf(NOTES) }),
  }
  // A gate may hold someone where they are; then it rang out.
  await logOutcome(rep, task.prospect_id, {
    id: randomUUID(),
    outcomeId: outcome!.id,
    taskId: task.id,
    phoneId: null,
    call: 'elsewhere',
    details,
    fingerprint: null,
  }).catch(() => {})
}

const REPLIES = [
  'Thanks for writing. Who else uses these? Could you send two references?',
  'Not this quarter, but ask me again in January.',
  'We did have a bad night in March. What does one logger cost?',
  'Please talk to our maintenance lead, I only sign.',
  'Hi, got your voicemail too. Can you do Tuesday after 2?',
  'we use paper charts and nobody reads them. send me the price list pls',
  'Is this the one that texts you? A neighbor has it and swears by it.',
  'Out of curiosity, how did you get my name?',
  'Budget is frozen until the new year. After that I’m interested.',
  'Wrong Ashdell, we only make cider here. But my cousin keeps cheese, shall I pass it on?',
  'Send me a PDF and I’ll take it to Monday’s meeting.',
  'We signed with someone in spring. Try me when that runs out, next May.',
  'How does it connect? We have no signal in the cellar at all.',
  'OK you have my attention. What do you need from me?',
  'I’m out on Thursdays. Friday morning works, before nine.',
  'Please stop putting “quick question” in subject lines and we’ll get along fine.',
  'Forwarding this to Quality, they’d be the ones to decide.\n\nSent from my phone',
  'Do they work at minus 30? Our old ones die every winter.',
  'Call me, I hate typing. Mornings are best.',
]

/** Some of those who were written to within two days open the mail, a few answer. */
async function someAnswer(at: number): Promise<void> {
  const { rows } = await db().query<{
    id: string
    prospect_id: string
  }>(sql`
    select m.id, m.prospect_id
    from email_messages m
    where m.status = 'sent'
      and m.kind = 'step'
      and m.sent_at > world_now() - interval '2 hours'
      and not exists (select from replies r where r.prospect_id = m.prospect_id)
    order by m.id
  `)
  for (const message of rows) {
    if (random() < 0.45) await noteOpened(signedToken('open', message.id))
    if (random() < 0.07) await answer(message, at)
  }
}

let replied = 0
/** Each reply once before any of them comes again. */
const nextReply = () => REPLIES[(replied++ * 5) % REPLIES.length]!

async function answer(message: { id: string; prospect_id: string }, at: number): Promise<void> {
  await recordEvents(
    [
      {
        id: randomUUID(),
        kind: 'emailReplied',
        prospectId: message.prospect_id,
        actorId: null,
        causedByEventId: null,
        messageId: message.id,
        at,
      },
    ],
    {
      alsoWrite: async (client) => {
        await client.query(
          sql`
            insert into replies (id, prospect_id, message_id, subject, body, received_at)
            select $1, $2, m.id, 'Re: ' || m.subject, $4, $5
            from email_messages m
            where m.id = $3
          `,
          [randomUUID(), message.prospect_id, message.id, nextReply(), new Date(at)],
        )
      },
    },
  )
}

/** This morning: a few fresh answers, and what was left undone yesterday. */
async function hotMorning(month: Month): Promise<void> {
  for (const [index, rep] of month.reps.entries()) {
    const { rows } = await db().query<{ id: string; prospect_id: string }>(
      sql`
        select distinct on (m.prospect_id) m.id, m.prospect_id
        from email_messages m
          join prospects p on p.id = m.prospect_id
          join enrollments e on e.id = m.enrollment_id
        where p.owner_id = $1 and m.status = 'sent' and e.status <> 'ended' and m.sent_at > $2
        order by m.prospect_id, m.sent_at desc
        limit 2
      `,
      [rep.id, new Date(month.to - 6 * DAY)],
    )
    for (const [nth, message] of rows.entries()) {
      const at = month.to - (index * 9 + nth * 31 + 12) * MINUTE
      await stopClock(at)
      await answer(message, at)
    }
  }
}
