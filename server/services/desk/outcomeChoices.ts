import { createHash } from 'node:crypto'
import type { OutcomeUse } from '#core/enumerations'
import { GATE_FIELDS } from '#core/stage/gate'
import { taskInHand } from '#core/engine/callOutcome'
import { outcomeKey } from '#core/queue/outcomeKey'
import { ReactionContext } from '#core/engine/state/reactionContext'
import { evolve, signature, type Effect } from '#core/engine/state/effects'
import { explain } from '#core/engine/explain'
import type { CallOrigin, OutcomeDetails as CoreDetails } from '#core/engine/state/events'
import type { Outcome, Playbook } from '#core/engine/state/playbook'
import { react } from '#core/engine/react'
import { colleaguesOf, type EngineState } from '#core/engine/state/engineState'
import type { Id } from '#core/instant'
import type { OutcomeChoice } from '#shared/api/desk/desk'
import { prospectOf } from '../../engine/logged'
import { readerOf, type Viewer } from '../access/viewer'
import { assumedDetails, withFields } from './assumed'

/** What an outcome is logged on: a call, which may answer a task, or a reply or to-do as such. */
export interface Work {
  prospectId: Id
  taskId: Id | null
  use: OutcomeUse
  /** Where the call was made; null without one. */
  call: CallOrigin | null
}

/** What is logged of an outcome, but for who does it and when. */
export function eventOf({ prospectId, taskId, use, call }: Work, outcomeId: Id, details: CoreDetails) {
  return use === 'call' || !taskId
    ? { kind: 'callLogged' as const, prospectId, outcomeId, taskId, phoneId: null, call, details }
    : { kind: 'taskDone' as const, prospectId, outcomeId, taskId, details }
}

/** What one outcome would do to this person now: the sentence and the fingerprint of its consequences. */
export function preview(
  outcome: Outcome,
  work: Work,
  state: EngineState,
  book: Playbook,
  viewer: Viewer,
  unread = 0,
): Pick<OutcomeChoice, 'summary' | 'blocked' | 'fingerprint' | 'missing'> & { alsoRequired: ('reason' | 'note')[] } {
  const { prospectId } = work
  const about = { id: 'preview', at: state.now, actorId: viewer.id, causedByEventId: null }
  const event = (more: CoreDetails = {}) => ({
    ...about,
    ...eventOf(work, outcome.id, { ...assumedDetails(outcome, state.now), ...more }),
  })
  let made = 0
  const newId = () => `new-${made++}`
  const canFill = (field: string) => field.startsWith('fields.') && field !== 'fields.companyId'
  const plain = react(event(), state, book, newId)
  const alsoRequired = (['reason', 'note'] as const).filter((ask) => plain.problems.some(({ field }) => field === ask))
  const missing = plain.problems.flatMap(({ field }) => (canFill(field) ? [field.slice('fields.'.length)] : []))
  // What is asked for in place is taken as given: so what the outcome will do is said beforehand.
  const given = event(Object.fromEntries(alsoRequired.map((ask) => [ask, 'assumed'])))
  const known = missing.length ? withFields(state, prospectId, missing) : state
  const asked = alsoRequired.length + missing.length > 0
  const { effects, problems: blocking, skipped } = asked ? react(given, known, book, newId) : plain
  const after = evolve(known, effects)
  const summary = explain(effects, prospectId, known, after, book, {
    ...readerOf(viewer, state.now),
    unread,
    assumed: outcome.requiredInputs.length + alsoRequired.length > 0,
    uncounted: uncounted(outcome, book, work),
    ...(skipped && { skipped }),
  })
  return {
    summary,
    blocked: blocking[0]?.message ?? null,
    missing: missing.map((key) => ({ key, label: GATE_FIELDS[key] ?? book.customFields[key] ?? key })),
    alsoRequired,
    fingerprint: createHash('sha256')
      .update(signature(promised(effects, prospectId, known, after, unread)))
      .update(blocking.map((problem) => problem.message).join())
      .digest('base64url')
      .slice(0, 22),
  }
}

/**
 * Most colleagues who are read to show what an outcome would do. At a larger company it does the same for the others,
 * which is said; what has changed with one of them meanwhile is then no surprise.
 */
export const COLLEAGUES_SHOWN = 200

/** The effects that a preview promises: all, or at a large company those on the prospect and the company itself. */
function promised(
  effects: readonly Effect[],
  prospectId: Id,
  before: EngineState,
  after: EngineState,
  unread: number,
): readonly Effect[] {
  if (colleaguesOf(before, before.prospect[prospectId]!).length + unread <= COLLEAGUES_SHOWN) return effects
  return effects.filter((effect) => [null, prospectId].includes(prospectOf(effect, after)))
}

/** Whether an unanswered attempt does not count, because no call was made. */
export const uncounted = (outcome: Outcome, book: Playbook, { use, call }: Pick<Work, 'use' | 'call'>) =>
  use === 'call' && outcome.countsAs === 'attempt' && !call && !book.countsUncalled

/** The outcomes that may be picked. */
export const offered = (book: Playbook) => Object.values(book.outcomes).filter((outcome) => !outcome.archived)

/**
 * Every outcome for this work with what it will do to this person, in the team's order, with its key, which is the
 * same for all work. `unread`: how many at their company the state leaves out.
 */
export function choices(
  work: Work,
  state: EngineState,
  book: Playbook,
  viewer: Viewer,
  unread: number,
): OutcomeChoice[] {
  return offered(book)
    .sort((a, b) => a.position - b.position || a.name.localeCompare(b.name))
    .map((outcome, index) => ({ outcome, key: outcomeKey(index) }))
    .filter(({ outcome }) => outcome.usedFor.includes(work.use))
    .map(({ outcome, key }) => {
      const { alsoRequired, ...seen } = preview(outcome, work, state, book, viewer, unread)
      const requiredInputs = [...outcome.requiredInputs, ...alsoRequired]
      return {
        id: outcome.id,
        key,
        name: outcome.name,
        requiredInputs,
        reasons: [...outcome.reasons],
        leavesMessage: outcome.leavesMessage,
        ...seen,
      }
    })
}

/** The task of this person that a call logged now would answer; null when it would answer none. */
export function taskForCall(prospectId: Id, state: EngineState, book: Playbook): Id | null {
  const event = {
    id: 'look',
    kind: 'taskDone' as const,
    at: state.now,
    prospectId,
    actorId: null,
    causedByEventId: null,
    taskId: '',
  }
  return taskInHand(new ReactionContext(state, book, event, () => ''), state.prospect[prospectId]!, null)?.id ?? null
}
