import type { Id } from '../instant'
import { ReactionContext } from './state/reactionContext'
import { evolve, inverse, type Cause, type Effect } from './state/effects'
import type { DomainEvent } from './state/events'
import { announceAgain, cancelMeeting } from './moves/meetings'
import type { Playbook } from './state/playbook'
import { closeDeadEnds, concernedBy } from './moves/nextAction'
import { endEnrollment } from './moves/progress'
import { stopCompany, withdrawEmail, withdrawTasks } from './moves/stopProspect'
import {
  ofProspect,
  openEnrollments,
  type Enrollment,
  type EntityName,
  type Prospect,
  type Rows,
  type EngineState,
} from './state/engineState'
import { stopOf, whyStopped } from './moves/stops'

/** What taking something back would do, and what it has to leave as it is. */
export interface Undoing {
  effects: Effect[]
  /** Sentences on what stays, for the person who takes it back. */
  skipped: string[]
}

const LEFT = new Set(['sending', 'sent', 'unconfirmed'])

/**
 * Takes back the effects of a whole causal tree, given newest first. Each inverse names the value it expects; where
 * someone has changed it since, it is kept and said. Mail that has left stays, with the touch that records it. `names`
 * are the tags and lists there are.
 */
export function undoEffects(
  newestFirst: readonly Effect[],
  state: EngineState,
  names: Playbook['names'],
): Undoing & { invitedMeetings: Id[] } {
  const world = new Map<string, Record<string, unknown> | null>()
  const key = (entity: EntityName, id: Id) => `${entity}:${id}`
  const current = (entity: EntityName, id: Id): Record<string, unknown> | null => {
    const known = world.get(key(entity, id))
    return known !== undefined
      ? known
      : (((state[entity] as Rows<typeof entity>)[id] as unknown as Record<string, unknown> | undefined) ?? null)
  }
  const effects: Effect[] = []
  const skipped: string[] = []
  const primaryRows = new Set<string>()
  const invitedMeetings: Id[] = []
  for (const effect of newestFirst) {
    const back = inverse(effect)
    if (effect.kind === 'bookMeeting' && wasInvited(state, effect.id)) {
      invitedMeetings.push(effect.id)
      continue
    }
    const row = current(effect.entity, effect.id)
    const reason =
      whyKept(effect, row, primaryRows) ?? whyNotReopened(back, row, state, world) ?? whyNotAgain(back, names)
    if (reason !== null) {
      primaryRows.add(key(effect.entity, effect.id))
      if (reason && !skipped.includes(reason)) skipped.push(reason)
      continue
    }
    if (effect.kind === 'openEnrollment' && isReferredTo(state, effect.id, current)) {
      const after = { status: 'ended', dueAt: null, endedAt: state.now, exit: 'removed' } as const
      const before = Object.fromEntries(Object.keys(after).map((field) => [field, row![field]]))
      effects.push({ ...back, entity: 'enrollment', kind: 'endEnrollment', before, after })
      world.set(key('enrollment', effect.id), { ...row, ...after })
      continue
    }
    effects.push(back)
    world.set(key(effect.entity, effect.id), back.after === null ? null : { ...row, ...back.after })
  }
  return { effects, skipped, invitedMeetings }
}

/** Whether email or a task of an enrollment stays: then the enrollment is ended instead of forgotten. */
function isReferredTo(
  state: EngineState,
  enrollmentId: Id,
  current: (entity: EntityName, id: Id) => Record<string, unknown> | null,
): boolean {
  return (['emailMessage', 'task', 'delayedAction'] as const).some((entity) =>
    Object.values(state[entity]).some((row) => row.enrollmentId === enrollmentId && current(entity, row.id) !== null),
  )
}

/** Whether the invitation to a meeting has left: then the meeting is cancelled instead of forgotten. */
function wasInvited(state: EngineState, meetingId: Id): boolean {
  return Object.values(state.emailMessage).some(
    (message) => message.meetingId === meetingId && LEFT.has(message.status),
  )
}

/** Why an effect cannot be taken back: a sentence, '' for what goes without saying, null when it can. */
function whyKept(effect: Effect, row: Record<string, unknown> | null, primaryRows: ReadonlySet<string>): string | null {
  if (effect.entity === 'emailMessage' && row && LEFT.has(row.status as string)) {
    return 'The email that has gone out stays sent'
  }
  const after = effect.after as Record<string, unknown> | null
  // Someone has had their turn since: it is theirs.
  if (effect.entity === 'turn') return row?.number === after?.number ? null : ''
  if (effect.entity === 'touch' && after?.messageId && primaryRows.has(`message:${after.messageId as string}`)) {
    return ''
  }
  if (after === null) return row === null ? null : whatStays(effect.entity)
  if (row === null) return `${NOUNS[effect.entity]} is gone already`
  // Where only so many start a day, the day they start is given later: nobody has changed anything by that.
  const isGivenADay = effect.kind === 'openEnrollment' && row.status === 'waiting'
  const fields = Object.keys(after).filter((field) => !(isGivenADay && field === 'dueAt'))
  const same = fields.every((field) => JSON.stringify(row[field]) === JSON.stringify(after[field]))
  return same ? null : whatStays(effect.entity)
}

/** Nobody gets a tag back that has been deleted, or is put back on a list that has. */
function whyNotAgain({ entity, after }: Effect, names: Playbook['names']): string | null {
  if (after === null) return null
  if (entity === 'prospectTag' && !names[after.tagId ?? '']) return 'The tag has been deleted since'
  return entity === 'listMember' && !names[after.listId ?? ''] ? 'The list has been deleted since' : null
}

/** An enrollment is not opened again where the person has entered the cadence again since. */
function whyNotReopened(
  back: Effect,
  row: Record<string, unknown> | null,
  state: EngineState,
  world: ReadonlyMap<string, Record<string, unknown> | null>,
): string | null {
  const status = back.entity === 'enrollment' ? back.after?.status : undefined
  if (row === null || row.status !== 'ended' || status === undefined || status === 'ended') {
    return null
  }
  const again = ofProspect(state, 'enrollment', row.prospectId as Id).some((other) => {
    const now = (world.get(`enrollment:${other.id}`) ?? other) as unknown as Enrollment
    return other.id !== row.id && other.cadenceId === row.cadenceId && now.status !== 'ended'
  })
  return again ? 'The person has entered the cadence again and stays in it once' : null
}

/**
 * What undoing comes to, with the laws asked like for any event: nothing comes back for people who have been stopped
 * since, nothing of a cadence that stays ended, and nobody is left without a next action. `event` is the undoing
 * itself; `newId` supplies the ids of new rows.
 */
export function undoLawfully(
  newestFirst: readonly Effect[],
  state: EngineState,
  playbook: Playbook,
  event: Extract<DomainEvent, { kind: 'undone' }>,
  newId: () => Id,
): Undoing {
  const { effects, skipped, invitedMeetings } = undoEffects(newestFirst, state, playbook.names)
  const context = new ReactionContext(evolve(state, effects), playbook, event, newId)
  for (const id of invitedMeetings) {
    const meeting = context.state.meeting[id]
    if (meeting?.status !== 'booked') continue
    cancelMeeting(context, meeting, { source: 'undo' })
    skipped.push('The invitation has gone out: a cancellation follows')
  }
  for (const { kind, id } of effects) {
    // The change was sent: that it is off is sent as well.
    const before = state.meeting[id]
    if ((kind === 'moveMeeting' || kind === 'cancelMeeting') && before && wasInvited(state, id)) {
      announceAgain(context, id, before.sequence, { source: 'undo' })
    }
  }
  const concerned = concernedBy(context, effects)
  for (const id of concerned) {
    const prospect = context.state.prospect[id]
    if (prospect) obeyStops(context, prospect, skipped)
  }
  closeDeadEnds(context, concerned)
  return { effects: [...effects, ...context.effects], skipped }
}

function obeyStops(context: ReactionContext, prospect: Prospect, skipped: string[]): void {
  const say = (sentence: string) => skipped.includes(sentence) || skipped.push(sentence)
  const before = context.effects.length
  const stop = stopOf(context.state, prospect, false)
  const stopped = whyStopped(context.state, prospect, false)
  const why = stop ? ({ rule: 'stopped', values: { stop } } as const) : ({ rule: 'undoStopped' } as const)
  const cause: Cause = { source: 'system_rule', ...why }
  if (stopped) stopCompany(context, [prospect], 'stopped', cause)
  for (const enrollment of openEnrollments(context.state, prospect.id)) {
    const cold = context.playbook.cadences[enrollment.cadenceId]?.cold ?? false
    if (whyStopped(context.state, prospect, cold)) endEnrollment(context, enrollment, 'stopped', cause)
  }
  if (prospect.stopEmail) withdrawEmail(context, prospect, cause)
  if (prospect.stopCall) withdrawTasks(context, prospect, ['call', 'call_back', 'text'], cause)
  if (context.effects.length > before) say(`${stopped ?? 'A stop has been set since'}: nothing is planned again`)
  withdrawEnded(context, prospect)
}

/** Open work of cadences that stay ended does not come back. */
function withdrawEnded(context: ReactionContext, prospect: Prospect): void {
  const cause: Cause = { source: 'system_rule', rule: 'cadenceEnded' }
  const ended = (enrollmentId: Id | null) =>
    enrollmentId !== null && context.state.enrollment[enrollmentId]?.status === 'ended'
  for (const task of ofProspect(context.state, 'task', prospect.id)) {
    if (task.status === 'open' && ended(task.enrollmentId)) {
      context.change('cancelTask', 'task', task.id, { status: 'cancelled', doneAt: context.now }, cause)
    }
  }
  for (const message of ofProspect(context.state, 'emailMessage', prospect.id)) {
    if ((message.status === 'queued' || message.status === 'held') && ended(message.enrollmentId)) {
      context.change('cancelEmail', 'emailMessage', message.id, { status: 'cancelled' }, cause)
    }
  }
}

const NOUNS: Record<EntityName, string> = {
  prospect: 'The person',
  company: 'The company',
  emailAddress: 'The address',
  phone: 'The number',
  enrollment: 'The enrollment',
  task: 'A task',
  emailMessage: 'An email',
  touch: 'A touch',
  deal: 'The deal',
  meeting: 'The meeting',
  delayedAction: 'What was scheduled',
  notification: 'A notification',
  prospectTag: 'A tag',
  listMember: 'A list',
  customValue: 'A field',
  turn: 'Whose turn it is',
}

function whatStays(entity: EntityName): string {
  return `${NOUNS[entity]} has been changed since and stays as it is`
}
