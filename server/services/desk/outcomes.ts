import { explain } from '#core/engine/explain'
import type { OutcomeDetails as CoreDetails } from '#core/engine/state/events'
import type { Id, Instant } from '#core/instant'
import { normalizeEmail } from '#core/text/email'
import { isStorable } from '#core/text/names'
import { parsePhone } from '#core/text/phone'
import type { OutcomeDetails } from '#shared/api/desk/desk'
import { newId } from '#shared/newId'
import { db, type Db } from '../../db/pool'
import { recordEvents, type RecordResult, type NewEvent } from '../../engine/recordEvents'
import { mustSeeIn } from '../access/access'
import { Refusal, refusedBy } from '../access/errors'
import { markCalled, mustBeFree, mustBeInBlock, mustCall } from '../blocks/work'
import { markHandled } from '../lists/listWork'
import { touchGoals } from '../lists/touchGoals'
import { isStarted } from './calls'
import { eventOf, preview, uncounted, type Work } from './outcomeChoices'
import { readerOf, type Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

/** Reads a referral's address and number as people write them, and finds out whether that person is known. */
async function readReferral(details: OutcomeDetails): Promise<CoreDetails['referral']> {
  const { referral } = details
  if (!referral) return undefined
  const problems: { field: string; message: string }[] = []
  const email = referral.email?.trim() ? normalizeEmail(referral.email) : null
  if (referral.email?.trim() && !email) {
    problems.push({ field: 'referral.email', message: 'Enter a valid email address' })
  }
  const team = await firstRow(db().query<{ country: string }>(sql`select country from team`))
  const phone = referral.phone?.trim() ? parsePhone(referral.phone, team!.country) : null
  if (referral.phone?.trim() && !phone) {
    problems.push({ field: 'referral.phone', message: 'Enter a valid phone number' })
  }
  if (problems.length) throw new Refusal('invalid', problems[0]!.message, problems)
  const {
    rows: [known],
  } = email
    ? await db().query<{ prospect_id: Id }>(sql`select prospect_id from email_addresses where address = $1`, [email])
    : { rows: [] }
  return {
    firstName: referral.firstName,
    lastName: referral.lastName,
    ...(referral.title && { title: referral.title }),
    ...(email && { email }),
    ...(phone && { phone: phone.number }),
    ...(known && { knownId: known.prospect_id }),
  }
}

/**
 * Reads the address for the invitation as people write it; throws at its field where it is no address, or someone
 * else's.
 */
async function readMeeting(
  { email, ...meeting }: NonNullable<OutcomeDetails['meeting']>,
  prospectId: Id,
): Promise<NonNullable<CoreDetails['meeting']>> {
  const address = email?.trim() ? normalizeEmail(email) : null
  const invalid = (message: string) => new Refusal('invalid', message, [{ field: 'meeting.email', message }])
  if (email?.trim() && !address) throw invalid('Enter a valid email address')
  const {
    rows: [other],
  } = address
    ? await db().query(sql`select from email_addresses where address = $1 and prospect_id <> $2`, [address, prospectId])
    : { rows: [] }
  if (other) throw invalid('Another prospect has this email address')
  return { ...meeting, ...(address && { email: address }) }
}

/**
 * What is logged: the outcome, the task it answers, what was asked, and the fingerprint of what was promised. `on`:
 * whether it is what came of a call, or of the task as such.
 */
export interface LogRequest {
  id: Id
  outcomeId: Id
  on?: 'call' | 'task'
  taskId: Id | null
  phoneId: Id | null
  details: OutcomeDetails
  fingerprint: string | null
  listId?: Id
  /** The call block that is worked. */
  blockId?: Id
  /**
   * Of a result of another dialer: when it called, and the export, where its caller is no user here. Who called there
   * need not be a caller of the block.
   */
  fromDialer?: { calledAt: Instant | null; exportId: Id | null }
  /** Said of a call that was not made from here. */ call?: 'elsewhere' | 'incoming' | null
}

/** For so long a call that was made from here waits for its outcome. */
const CALL_WAITS = `interval '12 hours'`

/** The viewer's last call to the person that has no outcome yet; null for none. */
export async function callWithoutOutcome(
  viewer: Viewer,
  prospectId: Id,
  client: Db = db(),
): Promise<{ id: Id; phoneId: Id; startedAt: Instant } | null> {
  const row = await firstRow(
    client.query<{ id: Id; phoneId: Id; startedAt: Instant }>({
      name: 'call-without-outcome',
      text: sql`
        select id, phone_id as "phoneId", ms(started_at) as "startedAt"
        from calls
        where user_id = $1
          and prospect_id = $2
          and logged_by is null
          and ${isStarted('calls')}
          and started_at > world_now() - ${CALL_WAITS}
        order by started_at desc
        limit 1
      `,
      values: [viewer.id, prospectId],
    }),
  )
  return row ?? null
}

/**
 * Logs what came of a call, or of a reply or to-do. Where the consequences are no longer those whose fingerprint is
 * sent, nothing is done and a conflict carries the new sentence. The same id sent twice is a conflict too, and does
 * nothing. Who logs it is asked on the way.
 */
export async function logOutcome(
  by: Viewer | ((on?: Db) => Promise<Viewer>),
  prospectId: Id,
  request: LogRequest,
): Promise<{ id: Id; summary: string }> {
  const who = typeof by === 'function' ? by : () => Promise.resolve(by)
  let viewer: Viewer | null = null
  const referral = request.details.referral && (await who().then(() => readReferral(request.details)))
  const { referral: _, meeting: asked, ...plain } = request.details
  const meeting = asked && (await readMeeting(asked, prospectId))
  const calledAt = request.fromDialer?.calledAt
  const more = { ...(meeting && { meeting }), ...(referral && { referral }), ...(calledAt && { calledAt }) }
  const details: CoreDetails = { ...plain, ...more }
  if (details.note && !isStorable(details.note)) {
    throw new Refusal('invalid', 'The note contains characters that cannot be saved', [
      { field: 'note', message: 'Contains characters that cannot be saved' },
    ])
  }
  const onTask = request.on === 'task'
  if (onTask && !request.taskId) {
    const message = 'Name the reply or to-do that this came of'
    throw new Refusal('invalid', message, [{ field: 'taskId', message }])
  }
  const work: Work = {
    prospectId,
    taskId: request.taskId,
    use: onTask ? 'task' : 'call',
    call: (!onTask && request.call) || null,
  }
  const about = { id: request.id, actorId: null, causedByEventId: null }
  const made = eventOf(work, request.outcomeId, details)
  const callEvent =
    made.kind === 'callLogged'
      ? {
          ...about,
          ...made,
          phoneId: request.phoneId,
          ...(request.blockId && { blockId: request.blockId }),
          ...(request.fromDialer?.exportId && { exportId: request.fromDialer.exportId }),
        }
      : null
  const event: NewEvent = callEvent ?? { ...about, ...made }
  const inside = async (client: Db, { results: [result], before, playbook: book }: RecordResult) => {
    const outcome = book.outcomes[request.outcomeId]
    if (outcome && request.fingerprint !== null && !result!.problems.some((problem) => problem.field === 'task')) {
      // A call that was made since the sentence was read is no surprise.
      const seen = (call: Work['call']) => preview(outcome, { ...work, call }, before, book, viewer!)
      const now = seen(work.call)
      if (now.fingerprint !== request.fingerprint && seen(null).fingerprint !== request.fingerprint) {
        throw new Refusal(
          'conflict',
          `Things have changed since you saw this. It would now do this: ${now.summary}`,
          [],
          {
            summary: now.summary,
            fingerprint: now.fingerprint,
          },
        )
      }
    }
    const dealtWith = result!.problems.find((problem) => problem.field === 'task')
    if (dealtWith) throw new Refusal('conflict', dealtWith.message)
    if (result!.problems.length) throw refusedBy(result!.problems)
    if (request.blockId) {
      // What another dialer says of a call holds, also while a caller here has the person in hand.
      if (!request.fromDialer) await mustBeFree(viewer!, request.blockId, prospectId, client)
      await markCalled(client, request.blockId, prospectId)
    }
    if (request.listId) await markHandled(client, viewer!, request.listId, prospectId, request.id)
    if (callEvent && !request.fromDialer) {
      await client.query(
        sql`
          update calls
          set logged_by = $3
          where user_id = $1 and prospect_id = $2 and logged_by is null
        `,
        [viewer!.id, prospectId, request.id],
      )
    }
    if (work.call === 'incoming') {
      // What the viewer answered from their numbers waits for no outcome any more.
      await client.query(
        sql`
          update incoming_calls c
          set seen_at = world_now()
          from phones n
          where n.prospect_id = $2 and n.number = c.number and c.answered_by = $1 and c.seen_at is null
        `,
        [viewer!.id, prospectId],
      )
    }
    const note = details.note?.trim()
    if (note) {
      await client.query(
        sql`
          insert into notes (id, prospect_id, user_id, event_id, at, body)
          values ($1, $2, $3, $4, world_now(), $5)
        `,
        [newId(), prospectId, viewer!.id, request.id, note],
      )
    }
  }
  const outcomes = await recordEvents([event], {
    actor: async (client) => {
      viewer = await who(client)
      if (request.blockId && request.fromDialer) await mustBeInBlock(request.blockId, prospectId, client)
      else if (request.blockId) await mustCall(viewer, request.blockId, prospectId, client)
      const called = request.fromDialer || !callEvent ? null : await callWithoutOutcome(viewer, prospectId, client)
      if (!called) return viewer.id
      work.call ??= 'here'
      Object.assign(callEvent!, { call: work.call, phoneId: callEvent!.phoneId ?? called.phoneId })
      return viewer.id
    },
    touchGoals: (ids) => touchGoals(viewer!, ids),
    // Whom one calls in a block one may see.
    check: (state) => request.blockId || mustSeeIn(viewer!, state, prospectId),
    alsoWrite: inside,
    extraIds: referral?.knownId ? [referral.knownId] : [],
  })
  const { before, after, playbook: book, results } = outcomes
  return {
    id: request.id,
    summary: explain(results[0]!.effects, prospectId, before, after, book, {
      ...readerOf(viewer!, before.now),
      uncounted: uncounted(book.outcomes[request.outcomeId]!, book, work),
      skipped: results[0]!.skipped ?? [],
    }),
  }
}
