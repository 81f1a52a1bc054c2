import { PHONE_STATUSES, RATINGS, STEP_KINDS, type DateStyle } from '../enumerations'
import type { Id, Instant } from '../instant'
import { DAY } from '../instant'
import { versionAt } from '../cadence/steps'
import { showDate } from '../calendar/dateStyle'
import { local, startOfDay } from '../calendar/local'
import { describeScheduled } from '../actions/registry'
import { namesOf } from '../actions/kind/define'
import type { Effect, EffectKind, EffectOf } from './state/effects'
import { SETTABLE_FIELDS } from './state/settableFields'
import type { Playbook } from './state/playbook'
import { attemptsOf, fullName, type Prospect, type EngineState } from './state/engineState'

/** For whom an explanation is written. */
export interface Reader {
  timeZone: string
  dateStyle: DateStyle
  now: Instant
  /** Times that stand in for ones not chosen yet, so that the sentence says so. */
  assumed?: boolean
  /** An unanswered attempt that does not count, because no call was made. */
  uncounted?: boolean
  /** How many colleagues there are whom the states leave out. */
  unread?: number
  /** What was not done, and why, each as a sentence. */
  skipped?: readonly string[]
}

/**
 * A moment as a person says it: "today, 2:30 PM", "Fri, Nov 27, 9:00 AM", "Dec 25, 2026". `reader.timeZone` is the wall
 * clock used.
 */
export function momentInWords(at: Instant, reader: Pick<Reader, 'timeZone' | 'now' | 'dateStyle'>): string {
  const time = local(at, reader.timeZone)
  const days = Math.round((startOfDay(at, reader.timeZone) - startOfDay(reader.now, reader.timeZone)) / DAY)
  const { dateStyle } = reader
  if (days === 0) return `today, ${showDate(time, dateStyle, 'clock')}`
  if (days === 1) return `tomorrow, ${showDate(time, dateStyle, 'clock')}`
  return showDate(time, dateStyle, days > 13 || days < 0 ? 'date' : 'moment')
}

const only = <K extends EffectKind>(effects: readonly Effect[], kind: K) =>
  effects.filter((effect): effect is EffectOf<K> => effect.kind === kind)
const many = (count: number, noun: string) => `${count} ${noun}${count === 1 ? '' : 's'}`

/**
 * What the effects do to this person, in one or a few short sentences: the text beside each outcome, in the event log
 * and in the undo notice. `before` and `after` are the states around them.
 */
export function explain(
  effects: readonly Effect[],
  prospectId: Id,
  before: EngineState,
  after: EngineState,
  playbook: Playbook,
  reader: Reader,
): string {
  const person = (after.prospect[prospectId] ?? before.prospect[prospectId])!
  const company = person.companyId ? (after.company[person.companyId] ?? null) : null
  const sentences: string[] = []
  const touches = only(effects, 'recordTouch').map((effect) => effect.after)
  if (touches.some((row) => row?.countsAs === 'attempt')) {
    const count = attemptsOf(after, prospectId)
    sentences.push(
      count <= playbook.attemptsAllowed ? `Attempt ${count} of ${playbook.attemptsAllowed}.` : `Attempt ${count}.`,
    )
  }
  sentences.push(...aboutCadences(effects, person, before, playbook, reader, company?.name ?? null))
  if (only(effects, 'moveStage').some((effect) => effect.id === prospectId)) {
    sentences.push(`Stage: ${playbook.stages[person.stageId]?.name ?? 'unknown'}.`)
  }
  for (const effect of only(effects, 'setCompanyStatus')) {
    const status = effect.after?.status
    const read = Object.values(before.prospect).filter((row) => row.companyId === effect.id).length
    const people = read + (reader.unread ?? 0)
    if (status === 'not_a_fit' || status === 'do_not_contact') {
      sentences.push(
        `Stops ${people === 1 ? 'the one person' : `all ${people} people`} at ${before.company[effect.id]?.name ?? 'the company'}.`,
      )
    }
  }
  for (const effect of only(effects, 'markNumber')) {
    sentences.push(`Marks this number ${PHONE_STATUSES[effect.after!.status!]}.`)
  }
  for (const effect of only(effects, 'setStop')) {
    const after = effect.after ?? {}
    const what = [after.stopCall && 'called', after.stopEmail && 'emailed'].filter(Boolean).join(' or ')
    sentences.push(what ? `Never ${what} again.` : 'The stop is lifted.')
  }
  for (const effect of only(effects, 'setProspectStatus')) {
    sentences.push(`Status: ${effect.after?.status}.`)
  }
  if (only(effects, 'bookMeeting').length) {
    sentences.push(
      only(effects, 'queueEmail').some((effect) => effect.after?.kind === 'invitation')
        ? 'Invitation goes out.'
        : 'No invitation: there is no address for it.',
    )
  }
  for (const effect of only(effects, 'moveMeeting')) {
    sentences.push(`Meeting: ${momentInWords(effect.after!.startAt!, reader)}.`)
  }
  for (const effect of only(effects, 'settleMeeting')) {
    sentences.push(effect.after?.status === 'held' ? 'Counts as a meeting held.' : 'Does not count as held.')
  }
  if (only(effects, 'cancelMeeting').length) sentences.push('The meeting is canceled.')
  const changed = only(effects, 'moveMeeting').length + only(effects, 'cancelMeeting').length > 0
  if (changed && only(effects, 'queueEmail').some((effect) => effect.after?.kind === 'invitation')) {
    sentences.push('They get an email.')
  }
  if (only(effects, 'openDeal').length) sentences.push('Opens a deal.')
  for (const effect of only(effects, 'closeDeal')) {
    sentences.push(effect.after?.status === 'won' ? 'The deal is won.' : 'The deal is lost.')
  }
  for (const effect of only(effects, 'changeDeal')) {
    const likelihood = effect.after?.likelihood
    if (likelihood !== undefined) sentences.push(`The deal is ${likelihood}% likely.`)
  }
  for (const effect of only(effects, 'addPerson')) {
    sentences.push(
      reader.assumed ? 'The right person is added here.' : `${fullName(after.prospect[effect.id]!)} is added here.`,
    )
  }
  if (only(effects, 'markEmail').length) sentences.push('The address is marked as not working.')
  sentences.push(...aboutRecord(effects, prospectId, before, playbook))
  sentences.push(...aboutTasks(effects, prospectId, { before, after }, reader))
  sentences.push(...aboutDelayed(effects, prospectId, before, playbook, reader))
  if (reader.unread && reachesOthers(effects, person, before)) {
    const name = company?.name ?? 'the company'
    sentences.push(`Does the same for ${many(reader.unread, 'more colleague')} at ${name}, not shown here.`)
  }
  for (const sentence of reader.skipped ?? []) sentences.push(`${sentence}.`)
  if (reader.uncounted) sentences.push('Not counted as an attempt: no call was made.')
  return sentences.join(' ')
}

/** Whether effects concern others at the person's company. */
function reachesOthers(effects: readonly Effect[], person: Prospect, before: EngineState): boolean {
  return effects.some(({ entity, id }) => {
    if (entity === 'company') return false
    const row = before[entity][id] as { prospectId?: Id } | undefined
    const whose = entity === 'prospect' ? id : row?.prospectId
    return whose !== undefined && whose !== person.id && before.prospect[whose]?.companyId === person.companyId
  })
}

function aboutCadences(
  effects: readonly Effect[],
  person: Prospect,
  before: EngineState,
  playbook: Playbook,
  reader: Reader,
  companyName: string | null,
): string[] {
  const sentences: string[] = []
  const ended = only(effects, 'endEnrollment')
  const own = ended.filter((effect) => before.enrollment[effect.id]?.prospectId === person.id)
  const others = new Set(
    ended.map((effect) => before.enrollment[effect.id]?.prospectId).filter((id) => id && id !== person.id),
  ).size
  const finished = own.length > 0 && own.every((effect) => effect.after?.exit === 'finished')
  if (own.length || others) {
    const whom = others ? ` with ${many(others, 'other')} at ${companyName ?? 'the company'}` : ''
    const forThem = finished ? 'The cadence is finished.' : `Leaves the cadence${whom}.`
    sentences.push(
      own.length
        ? forThem
        : `${many(others, 'other')} at ${companyName ?? 'the company'} ${others === 1 ? 'leaves' : 'leave'} their cadence.`,
    )
  }
  const cancelled = only(effects, 'cancelEmail').length
  if (cancelled) sentences.push(`Cancels ${many(cancelled, 'queued email')}.`)
  for (const effect of [...only(effects, 'moveEnrollment'), ...only(effects, 'skipStep')]) {
    const row = before.enrollment[effect.id]
    const after = effect.after ?? {}
    if (row?.prospectId !== person.id || !after.stepId || after.dueAt == null) continue
    if (ended.some(({ id }) => id === effect.id)) continue
    const cadence = playbook.cadences[row.cadenceId]
    const step = cadence && versionAt(cadence, after.stepId).steps.find(({ id }) => id === after.stepId)
    const at = momentInWords(after.dueAt, reader)
    if (step?.kind === 'branch') {
      sentences.push(`Next: “${step.name}” is decided, ${at}${step.endsEarly ? ' at the latest' : ''}.`)
    } else if (step) sentences.push(`Next: ${STEP_KINDS[step.kind]}, ${at}.`)
  }
  for (const effect of only(effects, 'openEnrollment')) {
    sentences.push(`Enters “${playbook.cadences[effect.after?.cadenceId ?? '']?.name ?? 'a cadence'}”.`)
  }
  if (only(effects, 'pauseEnrollment').length) sentences.push('The cadence waits until then.')
  return sentences
}

/** Tags, lists, fields and the owner. */
function aboutRecord(
  effects: readonly Effect[],
  prospectId: Id,
  state: EngineState,
  { names, customFields }: Playbook,
): string[] {
  const sentences: string[] = []
  for (const effect of effects) {
    const { kind, id, before, after } = effect
    if (kind === 'addTag') sentences.push(`Adds the tag “${names[after!.tagId!]}”.`)
    if (kind === 'removeTag') sentences.push(`Removes the tag “${names[before!.tagId!]}”.`)
    if (kind === 'joinList') sentences.push(`Adds to the list “${names[after!.listId!]}”.`)
    if (kind === 'leaveList') sentences.push(`Removes from the list “${names[before!.listId!]}”.`)
    if (kind === 'setField') {
      const field = (after ?? before)?.field ?? state.customValue[id]?.field ?? ''
      sentences.push(`${after ? 'Sets' : 'Clears'} “${{ ...customFields, ...SETTABLE_FIELDS }[field] ?? 'a field'}”.`)
    }
    if (kind === 'rate' && id === prospectId) {
      sentences.push(after?.ratedByScore ? 'Rates by score.' : `Rates ${RATINGS[after!.rating!]}.`)
    }
    if (kind === 'assign' && effect.entity === 'prospect' && id === prospectId) {
      const inTurn = effects.some((one) => one.entity === 'turn')
      sentences.push(`Owner: ${names[after!.ownerId!]}${inTurn ? ', next in turn' : ''}.`)
    }
  }
  return sentences
}

/** What is scheduled, and what was scheduled and is off. */
function aboutDelayed(
  effects: readonly Effect[],
  prospectId: Id,
  before: EngineState,
  playbook: Playbook,
  reader: Reader,
): string[] {
  const names = namesOf(playbook)
  const scheduled = only(effects, 'scheduleAction').map((effect) => {
    const { action, runAt } = effect.after ?? {}
    return `${describeScheduled(action!, names)} ${momentInWords(runAt!, reader)}.`
  })
  const off = only(effects, 'cancelAction').flatMap(({ id }) => {
    const row = before.delayedAction[id]
    return row?.prospectId === prospectId
      ? [`No longer scheduled: ${lowerFirst(describeScheduled(row.action, names))}.`]
      : []
  })
  return [...off, ...scheduled]
}

const lowerFirst = (text: string) => text.charAt(0).toLowerCase() + text.slice(1)

function aboutTasks(
  effects: readonly Effect[],
  prospectId: Id,
  { before, after }: { before: EngineState; after: EngineState },
  reader: Reader,
): string[] {
  const sentences: string[] = []
  for (const effect of only(effects, 'createTask')) {
    const task = after.task[effect.id]
    if (effect.before !== null || task?.prospectId !== prospectId) continue
    if (task.kind === 'call_back') {
      sentences.unshift(reader.assumed ? 'You pick the time.' : `Call back ${momentInWords(task.dueAt, reader)}.`)
    }
    if (task.kind === 'call' && task.enrollmentId === null) sentences.push(`Call ${momentInWords(task.dueAt, reader)}.`)
    if (task.kind === 'task' && task.enrollmentId === null) {
      sentences.push(`To-do ${momentInWords(task.dueAt, reader)}.`)
    }
    if (task.kind === 'first_contact') sentences.push('Waits for a first contact.')
    if (task.kind === 'follow_up') sentences.push(`Back on the Desk ${momentInWords(task.dueAt, reader)}.`)
  }
  for (const effect of only(effects, 'cancelTask')) {
    const task = before.task[effect.id]
    const replaced =
      task?.prospectId === prospectId &&
      task.enrollmentId === null &&
      task.dueAt > reader.now &&
      effect.cause.rule === 'planReplaced'
    if (replaced) sentences.push(`Instead of “${task.title}”, ${momentInWords(task.dueAt, reader)}.`)
  }
  return sentences
}
