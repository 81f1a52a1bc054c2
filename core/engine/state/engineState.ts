import type {
  CompanyStatus,
  CountsAs,
  DealStatus,
  DelayedActionStatus,
  EmailAddressStatus,
  EmailKind,
  EmailStatus,
  EmailType,
  EnrollmentStatus,
  ExitReason,
  MeetingStatus,
  NotificationKind,
  PhoneStatus,
  ProspectStatus,
  Rating,
  TaskKind,
  TaskStatus,
  TextConsent,
  TouchKind,
  TimeZoneSource,
} from '../../enumerations'
import type { Id, Instant } from '../../instant'
import type { Place } from '../../calendar/local'
import type { EntryFacts } from '../../cadence/entry'
import type { Facts } from '../../filter/matches'
import type { TouchInterval } from '../../queue/touchGoal'
import type { ConfiguredAction } from './playbook'

/**
 * What the engine may know when something happens. Rows are plain values keyed by id; nothing here is a
 * connection, a promise or a clock. `load` in server/engine fills it, `evolve` moves it on in memory.
 */

export interface Prospect {
  id: Id
  companyId: Id | null
  ownerId: Id | null
  stageId: Id
  firstName: string
  lastName: string
  title: string | null
  /** IANA zone the person lives by; never empty. */
  timeZone: string
  /** What says that this is their zone. */
  timeZoneFrom: TimeZoneSource
  country: string | null
  region: string | null
  stopCall: boolean
  stopEmail: boolean
  rating: Rating | null
  /** Whether the rating follows the score. */
  ratedByScore: boolean
  /** Whether the person is worked at all: paused and archived people get nothing and are on nobody's Desk. */
  status: ProspectStatus
}

export interface Company {
  id: Id
  name: string
  status: CompanyStatus
}
export interface EmailAddress {
  id: Id
  prospectId: Id
  address: string
  status: EmailAddressStatus
  position: number
}
export interface Phone {
  id: Id
  prospectId: Id
  number: string
  kind: string
  status: PhoneStatus
  textConsent: TextConsent
  position: number
}

/** One prospect's way through one cadence. `stepId` is the step that is next (waiting) or in hand (active, paused). */
export interface Enrollment {
  id: Id
  prospectId: Id
  cadenceId: Id
  stepId: Id
  status: EnrollmentStatus
  /** When the step falls due; set exactly while waiting. */
  dueAt: Instant | null
  byId: Id | null
  startedAt: Instant
  endedAt: Instant | null
  exit: ExitReason | null
}

export interface Task {
  id: Id
  prospectId: Id
  ownerId: Id | null
  kind: TaskKind
  /** Order of urgency on the Desk: 0 answer first, 1 promised, 2 planned, 3 new people who wait for a first contact. */
  priority: number
  title: string
  dueAt: Instant
  status: TaskStatus
  doneAt: Instant | null
  enrollmentId: Id | null
  stepId: Id | null
  messageId: Id | null
  /** The zone of the person, kept here so that the queue is read from one table. */
  timeZone: string
}

export interface EmailMessage {
  id: Id
  prospectId: Id
  kind: EmailKind
  enrollmentId: Id | null
  stepId: Id | null
  meetingId: Id | null
  emailAddressId: Id
  senderId: Id | null
  status: EmailStatus
  sendAt: Instant
  sentAt: Instant | null
  /** When it was first looked at, as far as that is known. */
  openedAt: Instant | null
  /** When a link of it was first clicked. */
  clickedAt: Instant | null
}

export interface Touch {
  id: Id
  prospectId: Id
  kind: TouchKind
  at: Instant
  userId: Id | null
  outcomeId: Id | null
  countsAs: CountsAs
  reason: string | null
  /** How it went, in one of the team's words; null where nobody said. */
  quality: string | null
  succeeded: boolean | null
  phoneId: Id | null
  enrollmentId: Id | null
  stepId: Id | null
  messageId: Id | null
}

export interface Deal {
  id: Id
  companyId: Id | null
  prospectId: Id
  ownerId: Id | null
  name: string
  status: DealStatus
  /** Percent, 0 to 100. */
  likelihood: number
  openedAt: Instant
  /** In the team's currency. */
  value: number | null
  /** Its stage, of the team's stages of deals. */
  stageId: Id | null
  /** ISO day on which it is expected to close. */
  expectedClose: string | null
  closedAt: Instant | null
  /** Why it was won or lost. */
  closeReason: string | null
}

export interface Meeting {
  id: Id
  prospectId: Id
  userId: Id | null
  title: string
  /** When it was booked; null where that was not written down. */
  bookedAt: Instant | null
  startAt: Instant
  endAt: Instant
  timeZone: string
  status: MeetingStatus
  /** How often it was changed since the first invitation (RFC 5545, SEQUENCE). */
  sequence: number
  /** Where it is, in words: a link, an address, who calls which number. */
  place: string | null
}

/** An action of an outcome that waits for its time, or did. */
export interface DelayedAction {
  id: Id
  prospectId: Id
  action: ConfiguredAction
  runAt: Instant
  status: DelayedActionStatus
  doneAt: Instant | null
  /** The outcome it belongs to, and the number that was called. */
  outcomeId: Id | null
  phoneId: Id | null
  enrollmentId: Id | null
}

/** What a user is to know of. */
export interface Notification {
  id: Id
  userId: Id
  kind: NotificationKind
  prospectId: Id
  /** The outcome that says so. */
  refId: Id | null
  /** Who did it; null for the prospect or the system. */
  byId: Id | null
  at: Instant
}

/** That a prospect has a tag. Such rows have no id of their own in the database: see `linkId`. */
export interface ProspectTag {
  id: Id
  prospectId: Id
  tagId: Id
}

/** That a prospect is on a fixed list. */
export interface ListMember {
  id: Id
  prospectId: Id
  listId: Id
}

/** When a user was last given a prospect in turn, as a number that grows; `id` is the user. */
export interface Turn {
  id: Id
  number: number
}

/** What a custom field of a prospect holds; of their company's too, then to be read only. */
export interface CustomValue {
  id: Id
  prospectId: Id
  /** The field's key, as filters and gates have it. */
  field: string
  value: unknown
}

/** Every kind of row the engine may change, by name. */
export interface Entities {
  prospect: Prospect
  company: Company
  emailAddress: EmailAddress
  phone: Phone
  enrollment: Enrollment
  task: Task
  emailMessage: EmailMessage
  touch: Touch
  deal: Deal
  meeting: Meeting
  delayedAction: DelayedAction
  notification: Notification
  prospectTag: ProspectTag
  listMember: ListMember
  customValue: CustomValue
  turn: Turn
}
export type EntityName = keyof Entities
export const ENTITY_NAMES = [
  'company',
  'prospect',
  'emailAddress',
  'phone',
  'enrollment',
  'meeting',
  'emailMessage',
  'task',
  'touch',
  'deal',
  'delayedAction',
  'notification',
  'prospectTag',
  'listMember',
  'customValue',
  'turn',
] as const satisfies readonly EntityName[]

export type Rows<E extends EntityName> = Readonly<Record<Id, Entities[E]>>

export interface Moment {
  readonly now: Instant
  /** Which kinds of mail people have said they do not take; anyone who takes all is not in it. */
  readonly optedOutOf: Readonly<Record<Id, readonly EmailType[]>>
  /**
   * How often people are to be in touch with, by the strictest touch goal of the lists they are on; absent without one.
   */
  readonly touchGoals: Readonly<Record<Id, TouchInterval>>
  /**
   * What the touches that are not among the rows came to, where some are left out: those of colleagues, but for what
   * happened in a cadence they are in.
   */
  readonly touchesBefore: Readonly<Record<Id, { attempts: number; conversations: number }>>
  /** What conditions ask of prospects, as it was when the state was read; absent where none asks. See `factsNow`. */
  readonly facts: Readonly<Record<Id, Facts>>
  /** What rules on who may enter a cadence ask of prospects; absent where none asks. */
  readonly entries: Readonly<Record<Id, EntryFacts>>
}
export type EngineState = Moment & { readonly [E in EntityName]: Rows<E> }

/** An engine state with nothing in it at `now`, to be filled. */
export function emptyState(now: Instant): EngineState {
  return {
    now,
    optedOutOf: {},
    touchGoals: {},
    touchesBefore: {},
    facts: {},
    entries: {},
    company: {},
    prospect: {},
    emailAddress: {},
    phone: {},
    enrollment: {},
    meeting: {},
    emailMessage: {},
    task: {},
    touch: {},
    deal: {},
    delayedAction: {},
    notification: {},
    prospectTag: {},
    listMember: {},
    customValue: {},
    turn: {},
  }
}

/**
 * The id of a row that says that two things belong together, made of theirs: the same for the same two, in the form of
 * a UUID. FNV-1a over both, four times with different beginnings (from memory).
 */
export function linkId(one: string, other: string): Id {
  const text = `${one}/${other}`
  const hex = [0x811c9dc5, 0x01000193, 0x9e3779b9, 0x85ebca6b].map((seed) => {
    let hash = seed
    for (let index = 0; index < text.length; index++) {
      hash = Math.imul(hash ^ text.charCodeAt(index), 0x01000193)
      hash ^= hash >>> 15
    }
    return (hash >>> 0).toString(16).padStart(8, '0')
  })
  const [a, b, c, d] = hex as [string, string, string, string]
  return `${a}-${b.slice(0, 4)}-8${b.slice(5)}-8${c.slice(1, 4)}-${c.slice(4)}${d}`
}

/**
 * Which rows of a table are whose; kept for tables that are long enough to be worth it, and by `putRow` and `dropRow`
 * kept true.
 */
const whose = new WeakMap<object, Map<Id, Set<Id>>>()
const LONG = 16

/** Rows of one kind that belong to a prospect, in the order they were loaded. */
export function ofProspect<E extends Exclude<EntityName, 'company' | 'prospect' | 'turn'>>(
  state: EngineState,
  entity: E,
  prospectId: Id,
): Entities[E][] {
  const rows = state[entity] as Rows<E>
  const known = whose.get(rows)
  if (known) return [...(known.get(prospectId) ?? [])].map((id) => rows[id]!)
  const all = Object.values(rows)
  if (all.length < LONG) return all.filter((row) => row.prospectId === prospectId)
  const index = new Map<Id, Set<Id>>()
  for (const row of all) {
    ;(index.get(row.prospectId) ?? index.set(row.prospectId, new Set()).get(row.prospectId)!).add(row.id)
  }
  whose.set(rows, index)
  return [...(index.get(prospectId) ?? [])].map((id) => rows[id]!)
}

/**
 * Puts a row into a table that is moved on in place, new or in the place of the one before; whose it is never changes.
 */
export function putRow<E extends EntityName>(rows: Record<Id, Entities[E]>, row: Entities[E]): void {
  rows[row.id] = row
  const index = whose.get(rows)
  if (!index || !('prospectId' in row)) return
  const theirs = index.get(row.prospectId)
  if (theirs) theirs.add(row.id)
  else index.set(row.prospectId, new Set([row.id]))
}

/** Takes a row out of a table that is moved on in place. */
export function dropRow<E extends EntityName>(rows: Record<Id, Entities[E]>, id: Id): void {
  const row = rows[id]
  if (row && 'prospectId' in row) whose.get(rows)?.get(row.prospectId)?.delete(id)
  Reflect.deleteProperty(rows, id)
}

/** The prospect's company, or null. */
export function companyOf(state: EngineState, prospect: Prospect): Company | null {
  return prospect.companyId === null ? null : (state.company[prospect.companyId] ?? null)
}

/** Everyone loaded at the prospect's company but the prospect. */
export function colleaguesOf(state: EngineState, prospect: Prospect): Prospect[] {
  return prospect.companyId === null
    ? []
    : Object.values(state.prospect).filter(
        (other) => other.companyId === prospect.companyId && other.id !== prospect.id,
      )
}

/** The user who owns most others at the prospect’s company, of those named where some are; null where nobody does. */
export function ownerAtCompany(state: EngineState, prospect: Prospect, among?: readonly Id[]): Id | null {
  const counts = new Map<Id, number>()
  for (const { ownerId } of colleaguesOf(state, prospect)) {
    if (ownerId && (!among || among.includes(ownerId))) counts.set(ownerId, (counts.get(ownerId) ?? 0) + 1)
  }
  const [first] = [...counts].sort(([a, one], [b, other]) => other - one || (a < b ? -1 : 1))
  return first?.[0] ?? null
}

/** Enrollments of the prospect that have not ended. */
export function openEnrollments(state: EngineState, prospectId: Id): Enrollment[] {
  return ofProspect(state, 'enrollment', prospectId).filter((row) => row.status !== 'ended')
}

/** Calls that did not reach the person. */
export function attemptsOf(state: EngineState, prospectId: Id): number {
  const before = state.touchesBefore[prospectId]?.attempts ?? 0
  return before + ofProspect(state, 'touch', prospectId).filter((touch) => touch.countsAs === 'attempt').length
}

/** Calls that reached the person, meetings and answers. */
export function conversationsWith(state: EngineState, prospectId: Id): number {
  const before = state.touchesBefore[prospectId]?.conversations ?? 0
  return before + ofProspect(state, 'touch', prospectId).filter((touch) => touch.countsAs === 'conversation').length
}

/** Whether there has been a conversation with the prospect: a call that reached them, a meeting, an answer. */
export function wasReached(state: EngineState, prospectId: Id): boolean {
  return conversationsWith(state, prospectId) > 0
}

/** Whether there was any touch of the prospect. */
export function wasTouched(state: EngineState, prospectId: Id): boolean {
  return state.touchesBefore[prospectId] !== undefined || ofProspect(state, 'touch', prospectId).length > 0
}

/** The address mail goes to: the first that has not bounced. */
export function usableEmail(state: EngineState, prospectId: Id): EmailAddress | null {
  return (
    ofProspect(state, 'emailAddress', prospectId)
      .filter((row) => row.status === 'ok')
      .sort((a, b) => a.position - b.position)[0] ?? null
  )
}

/** Numbers that may be called, confirmed ones first, then in their own order. */
export function usablePhones(state: EngineState, prospectId: Id): Phone[] {
  const rank = (phone: Phone) => (phone.status === 'correct' ? 0 : 1)
  return ofProspect(state, 'phone', prospectId)
    .filter((phone) => phone.status === 'correct' || phone.status === 'unverified')
    .sort((a, b) => rank(a) - rank(b) || a.position - b.position)
}

/** Actions that wait for their time, the next one first. */
export function waitingActions(state: EngineState, prospectId: Id): DelayedAction[] {
  return ofProspect(state, 'delayedAction', prospectId)
    .filter((row) => row.status === 'waiting')
    .sort((a, b) => a.runAt - b.runAt || (a.id < b.id ? -1 : 1))
}

/** Where the person is, for the calendar. */
export function placeOf(prospect: Prospect): Place {
  return {
    timeZone: prospect.timeZone,
    country: prospect.country,
    region: prospect.region,
    timeZoneFrom: prospect.timeZoneFrom,
  }
}

/** "Tomas Bellweather", or what there is of it. */
export function fullName(person: Pick<Prospect, 'firstName' | 'lastName'>): string {
  return `${person.firstName} ${person.lastName}`.trim() || 'Unnamed'
}
