import {
  COMPANY_STATUSES,
  EXIT_REASONS,
  PHONE_STATUSES,
  PROSPECT_STATUSES,
  RATINGS,
  STEP_KINDS,
  capitalized,
} from '../enumerations'
import { DateTime } from 'luxon'
import { describeScheduled } from '../actions/registry'
import { showDate } from '../calendar/dateStyle'
import { namesOf } from '../actions/kind/define'
import { everyStep, type Step } from '../cadence/steps'
import type { Id } from '../instant'
import { moneyInWords } from '../text/money'
import { ruleInWords, type CauseNames } from './state/causes'
import type { Effect } from './state/effects'
import { SETTABLE_FIELDS } from './state/settableFields'
import { linkId, type Deal } from './state/engineState'
import { momentInWords, type Reader } from './explain'
import type { ConfiguredAction, Playbook } from './state/playbook'

/** The label of a value as the log holds it. */
const labelOf = (labels: Readonly<Record<string, string>>, value: unknown) => labels[value as string] ?? String(value)

type Loose = Record<string, unknown>

/** The value of a custom field, as it is read. */
function valueInWords(value: unknown): string {
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  return Array.isArray(value) ? value.join(', ') : String(value)
}

/** What changed of a deal, each with what was and is; of a new one, what it is. A name is not in the log. */
function dealInWords(
  before: Partial<Deal> | null,
  after: Partial<Deal>,
  book: Playbook,
  { dateStyle }: Reader,
): string {
  const none = 'none'
  const money = (value: number | null | undefined) =>
    typeof value === 'number' ? moneyInWords(value, book.currency) : none
  const stage = (id: Id | null | undefined) => (id ? (book.names[id] ?? id) : none)
  const day = (isoDay: string | null | undefined) =>
    isoDay ? showDate(DateTime.fromISO(isoDay), dateStyle, 'date') : none
  const words: [field: keyof Deal, label: string, show: (deal: Partial<Deal>) => string][] = [
    ['value', 'Value', ({ value }) => money(value)],
    ['stageId', 'Stage', ({ stageId }) => stage(stageId)],
    ['likelihood', 'Likelihood', ({ likelihood }) => `${likelihood}%`],
    ['expectedClose', 'Expected close', ({ expectedClose }) => day(expectedClose)],
  ]
  const parts = words.flatMap(([field, label, show]) => {
    if (after[field] === undefined || (!before && after[field] === null)) return []
    return [`${label}: ${before ? `${show(before)} → ` : ''}${show(after)}`]
  })
  return parts.join('. ') || 'The deal has another name'
}

/** One effect in words, for the history: what changed, from what to what. `prospectId`: whom it concerns. */
export function describeEffect(effect: Effect & { prospectId?: Id | null }, book: Playbook, reader: Reader): string {
  const after = (effect.after ?? {}) as Loose
  const before = (effect.before ?? {}) as Loose
  const moment = (at: unknown) => momentInWords(at as number, reader)
  const stage = (id: unknown) => book.stages[id as string]?.name ?? String(id)
  if (effect.cause.source === 'undo') return `Undone: ${NAMES[effect.kind]}`
  switch (effect.kind) {
    case 'moveStage':
      return `Stage: ${stage(before.stageId)} → ${stage(after.stageId)}`
    case 'openEnrollment':
      return `Entered “${book.cadences[after.cadenceId as string]?.name ?? 'a cadence'}”`
    case 'endEnrollment':
      return `Left the cadence: ${labelOf(EXIT_REASONS, after.exit)}`
    case 'pauseEnrollment':
      return 'The cadence waits'
    case 'moveEnrollment':
      return typeof after.dueAt === 'number' ? `Next step: ${moment(after.dueAt)}` : 'The step is open'
    case 'skipStep':
      return 'A step was left out'
    case 'createTask':
      return typeof after.dueAt === 'number' ? `On the Desk from ${moment(after.dueAt)}` : 'Back on the Desk'
    case 'finishTask':
      return 'Done on the Desk'
    case 'cancelTask':
      return 'Taken off the Desk'
    case 'queueEmail':
      return `Email queued for ${moment(after.sendAt)}`
    case 'cancelEmail':
      return 'Queued email canceled'
    case 'settleEmail':
      return (
        {
          sent: 'Email sent',
          failed: 'Email could not be sent',
          held: 'Email held back',
          unconfirmed: 'Email may have gone out',
        }[after.status as string] ?? 'Email settled'
      )
    case 'setStop':
      return after.stopCall || after.stopEmail
        ? capitalized([after.stopCall && 'do not call', after.stopEmail && 'do not email'].filter(Boolean).join(', '))
        : 'May be called and emailed again'
    case 'setProspectStatus':
      return `Status: ${labelOf(PROSPECT_STATUSES, before.status)} → ${labelOf(PROSPECT_STATUSES, after.status)}`
    case 'setCompanyStatus':
      return `Company status: ${labelOf(COMPANY_STATUSES, before.status)} → ${labelOf(COMPANY_STATUSES, after.status)}`
    case 'markNumber':
      return `Number: ${labelOf(PHONE_STATUSES, after.status)}`
    case 'bookMeeting':
      return `Meeting on ${moment(after.startAt)}`
    case 'moveMeeting':
      return `Meeting moved to ${moment(after.startAt)}`
    case 'settleMeeting':
      return after.status === 'no_show' ? 'They did not come' : 'Meeting held'
    case 'closeDeal':
      if (after.status === 'won') return 'Deal won'
      return after.status === 'lost' ? 'Deal lost' : 'Deal open again'
    case 'openDeal': {
      const terms = dealInWords(null, after as Partial<Deal>, book, reader)
      // By hand, that it was opened is the title of the entry.
      return effect.cause.source === 'person' ? terms : `Deal opened. ${terms}`
    }
    case 'changeDeal':
      return dealInWords(before as Partial<Deal>, after as Partial<Deal>, book, reader)
    case 'scheduleAction':
      return [
        `Scheduled for ${moment(after.runAt)}: `,
        describeScheduled(after.action as ConfiguredAction, namesOf(book)),
      ].join('')
    case 'cancelAction':
      return 'Canceled what was scheduled'
    case 'notify':
      return `Notified: ${book.names[after.userId as string] ?? 'a user who is no longer active'}`
    case 'addTag':
      return `Tag added: ${book.names[after.tagId as string] ?? 'one deleted since'}`
    case 'removeTag':
      return `Tag removed: ${book.names[before.tagId as string] ?? 'one deleted since'}`
    case 'joinList':
      return `Added to the list “${book.names[after.listId as string] ?? 'deleted since'}”`
    case 'leaveList':
      return `Removed from the list “${book.names[before.listId as string] ?? 'deleted since'}”`
    case 'setField': {
      // A value that was changed says by its id alone which field it is of.
      const fields: Record<string, string> = { ...book.customFields, ...SETTABLE_FIELDS }
      const ofId = Object.keys(fields).find((key) => linkId(effect.prospectId ?? '', key) === effect.id)
      const name = fields[(after.field ?? before.field ?? ofId) as string] ?? 'A field that was deleted'
      return effect.after ? `${name}: ${valueInWords(after.value)}` : `${name}: cleared`
    }
    case 'rate':
      return after.ratedByScore ? 'Rating: by score' : `Rating: ${labelOf(RATINGS, after.rating)}`
    case 'assign':
      return effect.entity === 'task'
        ? 'The task is assigned, too'
        : `Owner: ${book.names[after.ownerId as string] ?? 'a user who is no longer active'}`
    default:
      return NAMES[effect.kind]
  }
}

const NAMES: Record<Effect['kind'], string> = {
  rate: 'the rating',
  openEnrollment: 'entering the cadence',
  moveEnrollment: 'the next step',
  pauseEnrollment: 'the pause',
  endEnrollment: 'leaving the cadence',
  skipStep: 'leaving a step out',
  createTask: 'the task',
  finishTask: 'the finished task',
  cancelTask: 'the canceled task',
  queueEmail: 'the queued email',
  cancelEmail: 'the canceled email',
  setTextConsent: 'whether they get texts',
  openEmail: 'email opened',
  clickEmail: 'link clicked',
  settleEmail: 'the email’s status',
  recordTouch: 'Touch recorded',
  moveStage: 'the stage',
  setStop: 'the stop',
  setCompanyStatus: 'the company’s status',
  markNumber: 'the mark on the number',
  markEmail: 'Address marked as not working',
  bookMeeting: 'the meeting',
  moveMeeting: 'the new time',
  cancelMeeting: 'Meeting canceled',
  settleMeeting: 'how the meeting went',
  moveTask: 'the new time',
  changeDeal: 'the deal',
  closeDeal: 'how the deal ended',
  setProspectStatus: 'the status',
  openDeal: 'Deal opened',
  addPerson: 'A person was added',
  addContact: 'An address or number was added',
  scheduleAction: 'what was scheduled',
  cancelAction: 'canceling what was scheduled',
  finishAction: 'Done as scheduled',
  skipAction: 'Scheduled, and not done',
  addTag: 'the tag',
  removeTag: 'removing the tag',
  joinList: 'the list',
  leaveList: 'leaving the list',
  setField: 'the field',
  assign: 'the owner',
  takeTurn: 'whose turn it is',
  notify: 'Notification sent',
}

/** The names of stages, steps and ways that the sentences of rules need. */
function causeNames(book: Playbook): CauseNames {
  const step = (id: Id | undefined) => everyStep(Object.values(book.cadences)).find((one) => one.id === id)
  const nameOf = (one: Step | undefined) => one?.name || (one ? capitalized(STEP_KINDS[one.kind]) : 'A step')
  return {
    stage: (id) => book.stages[id ?? '']?.name ?? 'The stage',
    step: (id) => nameOf(step(id)),
    way: (stepId, wayId) => step(stepId)?.ways.find(({ id }) => id === wayId)?.name || null,
  }
}

/** The cause of an effect in words: which outcome, step, setting, law or person. */
export function causeInWords(cause: Effect['cause'], book: Playbook): string {
  if (cause.rule) {
    const words = ruleInWords(cause.rule, cause.values ?? {}, causeNames(book))
    return cause.said ? `${words}: ${cause.said}` : words
  }
  switch (cause.source) {
    case 'outcome':
      return `Outcome “${book.outcomes[cause.id ?? '']?.name ?? 'removed since'}”`
    case 'step': {
      for (const cadence of Object.values(book.cadences)) {
        const step = everyStep([cadence]).find((row) => row.id === cause.id)
        if (step) return `“${cadence.name}”, ${step.name}`
      }
      return 'A cadence step'
    }
    case 'cadence':
      return `“${book.cadences[cause.id ?? '']?.name ?? 'the cadence'}”`
    case 'form':
      return `Form “${book.forms[cause.id ?? '']?.name ?? 'deleted since'}”`
    case 'person':
      return 'By hand'
    case 'undo':
      return 'Undone'
    case 'system_rule':
      return 'Automatic'
  }
}
