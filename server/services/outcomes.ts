import { createHash, randomUUID } from 'node:crypto'
import { taskInHand } from '#core/engine/callOutcome'
import { Course } from '#core/engine/course'
import { evolve, signature } from '#core/engine/effects'
import { explain } from '#core/engine/explain'
import type { OutcomeDetails as CoreDetails } from '#core/engine/happenings'
import type { Outcome, Playbook } from '#core/engine/playbook'
import { react } from '#core/engine/react'
import type { Situation } from '#core/engine/situation'
import { DAY, type Id } from '#core/instant'
import { normalizeEmail } from '#core/text/email'
import { isStorable } from '#core/text/names'
import { parsePhone } from '#core/text/phone'
import type { OutcomeChoice, OutcomeDetails } from '#shared/api/desk'
import { db, type Db } from '../db/pool'
import { happen, type Outcomes, type Told } from '../engine/happen'
import { mustSeeIn } from './access'
import { Refusal, refusedBy } from './errors'
import { markHandled } from './listWork'
import type { Viewer } from './sessions'

/** What stands in for details that are asked for only once an outcome is chosen. */
function assumed(outcome: Outcome, now: number): CoreDetails {
  return {
    ...(outcome.asks.includes('callBackAt') && { callBackAt: now + DAY }),
    ...(outcome.asks.includes('reason') && { reason: 'assumed' }),
    ...(outcome.asks.includes('note') && { note: 'assumed' }),
    ...(outcome.asks.includes('meeting') && { meeting: { title: 'Meeting', startAt: now + DAY, minutes: 30, zone: 'UTC' } }),
    ...(outcome.asks.includes('referral') && { referral: { firstName: 'assumed', lastName: '' } }),
  }
}

/** What one outcome would do to this person now: the sentence and the fingerprint of its consequences. */
function preview(outcome: Outcome, prospectId: Id, taskId: Id | null, situation: Situation, book: Playbook, viewer: Viewer): { says: string, blocked: string | null, fingerprint: string } {
  const happening = { id: 'preview', kind: 'callLogged' as const, at: situation.now, prospectId, actorId: viewer.id, causeId: null, outcomeId: outcome.id, taskId, phoneId: null, details: assumed(outcome, situation.now) }
  let made = 0
  const { effects, problems } = react(happening, situation, book, () => `new-${made++}`)
  const says = explain(effects, prospectId, situation, evolve(situation, effects), book, { zone: viewer.zone, now: situation.now, assumed: outcome.asks.length > 0 })
  return {
    says, blocked: problems[0]?.message ?? null,
    fingerprint: createHash('sha256').update(signature(effects)).update(problems.map(problem => problem.message).join()).digest('base64url').slice(0, 22),
  }
}

/** Every outcome with what it will do to this person, in the team's order. The first nine have a number key. */
export function choices(prospectId: Id, taskId: Id | null, situation: Situation, book: Playbook, viewer: Viewer): OutcomeChoice[] {
  return Object.values(book.outcomes).filter(outcome => !outcome.archived).sort((a, b) => a.position - b.position || a.name.localeCompare(b.name)).map((outcome, index) => ({
    id: outcome.id, key: index < 9 ? index + 1 : null, name: outcome.name, asks: [...outcome.asks], reasons: [...outcome.reasons],
    ...preview(outcome, prospectId, taskId, situation, book, viewer),
  }))
}

/** The task of this person that a call logged now would answer; null when it would answer none. */
export function taskForCall(prospectId: Id, situation: Situation, book: Playbook): Id | null {
  const happening = { id: 'look', kind: 'taskDone' as const, at: situation.now, prospectId, actorId: null, causeId: null, taskId: '' }
  return taskInHand(new Course(situation, book, happening, () => ''), situation.prospect[prospectId]!, null)?.id ?? null
}

/** Reads a referral's address and number as people write them, and finds out whether that person is known. */
async function readReferral(details: OutcomeDetails): Promise<CoreDetails['referral']> {
  const { referral } = details
  if (!referral) return undefined
  const problems: { field: string, message: string }[] = []
  const email = referral.email?.trim() ? normalizeEmail(referral.email) : null
  if (referral.email?.trim() && !email) problems.push({ field: 'referral.email', message: 'This is no email address' })
  const { rows: [team] } = await db().query<{ country: string }>('select country from team')
  const phone = referral.phone?.trim() ? parsePhone(referral.phone, team!.country) : null
  if (referral.phone?.trim() && !phone) problems.push({ field: 'referral.phone', message: 'This cannot be a phone number' })
  if (problems.length) throw new Refusal('invalid', problems[0]!.message, problems)
  const { rows: [known] } = email ? await db().query<{ prospect_id: Id }>('select prospect_id from emails where address = $1', [email]) : { rows: [] }
  return {
    firstName: referral.firstName, lastName: referral.lastName, ...(referral.title && { title: referral.title }),
    ...(email && { email }), ...(phone && { phone: phone.number }), ...(known && { knownId: known.prospect_id }),
  }
}

/** What is logged: the outcome, the task it answers, what was asked, and the fingerprint of what was promised. */
export interface LogRequest { id: Id, outcomeId: Id, taskId: Id | null, phoneId: Id | null, details: OutcomeDetails, fingerprint: string | null, listId?: Id }

/**
 * Logs what came of a call. Where the consequences are no longer those whose fingerprint is sent, nothing is done and a
 * conflict carries the new sentence. Telling the same id twice is a conflict too, and does nothing. Who logs it is asked
 * on the way.
 */
export async function logOutcome(by: Viewer | ((on?: Db) => Promise<Viewer>), prospectId: Id, request: LogRequest): Promise<{ id: Id, says: string }> {
  const who = typeof by === 'function' ? by : () => Promise.resolve(by)
  let viewer: Viewer | null = null
  const referral = request.details.referral && await who().then(() => readReferral(request.details))
  const { referral: _, ...plain } = request.details
  const details: CoreDetails = { ...plain, ...(referral && { referral }) }
  if (details.note && !isStorable(details.note)) throw new Refusal('invalid', 'The note contains characters that cannot be kept', [{ field: 'note', message: 'Contains characters that cannot be kept' }])
  const told: Told = { id: request.id, kind: 'callLogged', prospectId, actorId: null, causeId: null, outcomeId: request.outcomeId, taskId: request.taskId, phoneId: request.phoneId, details }
  const inside = async (client: Db, { results: [result], before, playbook: book }: Outcomes) => {
    const outcome = book.outcomes[request.outcomeId]
    if (outcome && request.fingerprint !== null && !result!.problems.some(problem => problem.field === 'task')) {
      const now = preview(outcome, prospectId, request.taskId, before, book, viewer!)
      if (now.fingerprint !== request.fingerprint) {
        throw new Refusal('conflict', `Things have changed since you saw this. It would now do this: ${now.says}`, [], { says: now.says, fingerprint: now.fingerprint })
      }
    }
    const dealtWith = result!.problems.find(problem => problem.field === 'task')
    if (dealtWith) throw new Refusal('conflict', dealtWith.message)
    if (result!.problems.length) throw refusedBy(result!.problems)
    if (request.listId) await markHandled(client, viewer!, request.listId, prospectId, request.id)
    const note = details.note?.trim()
    if (note) await client.query('insert into notes (id, prospect_id, user_id, happening_id, at, body) values ($1, $2, $3, $4, world_now(), $5)', [randomUUID(), prospectId, viewer!.id, request.id, note])
  }
  const outcomes = await happen([told], {
    who: async client => (viewer = await who(client)).id,
    first: situation => mustSeeIn(viewer!, situation, prospectId), inside, extraIds: referral?.knownId ? [referral.knownId] : [],
  })
  const { before, after, playbook: book, results } = outcomes
  return { id: request.id, says: explain(results[0]!.effects, prospectId, before, after, book, { zone: viewer!.zone, now: before.now }) }
}
