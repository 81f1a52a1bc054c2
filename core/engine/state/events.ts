import type {
  Channel,
  CompanyStatus,
  EmailAddressStatus,
  MeetingResult,
  PhoneStatus,
  ProspectStatus,
  TextConsent,
  ToDoKind,
} from '../../enumerations'
import type { Id, Instant } from '../../instant'
import type { DealTerms } from './dealTerms'
import type { ConfiguredAction } from './playbook'

/** What every event has. `id` is made by the program that saw it first, so that recording twice is recording once. */
interface EventBase {
  id: Id
  at: Instant
  prospectId: Id
  /** The user who did it; null when the world or the calendar did. */
  actorId: Id | null
  /** The event this one follows from. */
  causedByEventId: Id | null
}

/** Where a logged call was made: from here, on another phone, or by them to us. */
export type CallOrigin = 'here' | 'elsewhere' | 'incoming'

/** What was asked for with an outcome. Absent means not asked or not given. */
export interface OutcomeDetails {
  callBackAt?: Instant
  reason?: string
  note?: string
  /** How it went, in one of the team's words. */
  quality?: string
  /** When it was called, where that was another dialer’s call, logged later. */
  calledAt?: Instant
  succeeded?: boolean
  meeting?: {
    title: string
    startAt: Instant
    minutes: number
    timeZone: string
    /** Where it is, in words. */ place?: string
    /** An address they have just given, for the invitation. */ email?: string
  }
  referral?: {
    firstName: string
    lastName: string
    title?: string
    email?: string
    /** E.164. */
    phone?: string
    /** Someone already known under that address; then no one new is added. */
    knownId?: Id
  }
}

export type DomainEvent = EventBase &
  /** Someone is there who was not, or has nothing to come: they get a next action. */
  (
    | { kind: 'prospectAdded' }
    | { kind: 'nextActionMissing' }
    /** `startAt`: when the wait before the first step begins, where that is not now. */
    | { kind: 'enrolled'; cadenceId: Id; startAt?: Instant | null }
    | { kind: 'unenrolled'; enrollmentId: Id }
    /** The step in hand is left out, and the cadence goes on. */
    | { kind: 'stepSkipped'; enrollmentId: Id }
    | { kind: 'enrollmentMoved'; enrollmentId: Id; stepId: Id | null; dueAt: Instant | null }
    | { kind: 'stepDue'; enrollmentId: Id }
    | { kind: 'actionDue'; delayedActionId: Id }
    | { kind: 'actionCancelled'; delayedActionId: Id }
    | {
        kind: 'callLogged'
        outcomeId: Id
        taskId: Id | null
        phoneId: Id | null
        call?: CallOrigin | null
        /** The call block in which it was made. */
        blockId?: Id
        /** The export to another dialer whose caller it was, where that is no user here. */
        exportId?: Id
        details: OutcomeDetails
      }
    /** They answered one of several lines, and no caller was free; for whom it was dialed. */
    | { kind: 'callAbandoned'; phoneId: Id; blockId: Id; dialedFor: Id }
    /** They called and nobody answered; it rang for one user, or for everyone. */
    | { kind: 'callMissed'; phoneId: Id; rangFor: Id | null }
    | { kind: 'taskPlanned'; task: ToDoKind; title: string; dueAt: Instant; ownerId: Id | null }
    /** Done, or with what came of it. */
    | { kind: 'taskDone'; taskId: Id; outcomeId?: Id; details?: OutcomeDetails }
    | { kind: 'taskAssigned'; taskId: Id; ownerId: Id }
    /** Written by hand for one, or for many at once, then with the moment it is to leave. */
    | { kind: 'emailWritten'; messageId: Id; taskId: Id | null; many?: { sendAt: Instant } }
    | { kind: 'emailSent'; messageId: Id }
    | { kind: 'emailOpened'; messageId: Id }
    | { kind: 'emailClicked'; messageId: Id }
    | { kind: 'textWritten'; messageId: Id; phoneId: Id; taskId: Id | null; agreed: boolean }
    | { kind: 'textReceived'; messageId: Id; phoneId: Id }
    | { kind: 'textFailed'; messageId: Id; senderId: Id | null }
    | { kind: 'textConsentSet'; phoneId: Id; to: TextConsent }
    | { kind: 'emailFailed'; messageId: Id; permanent: boolean }
    | { kind: 'emailHeld'; messageId: Id }
    /** `why`, in words, as it was found at the moment of sending. */
    | { kind: 'emailStopped'; messageId: Id; why?: string }
    | { kind: 'emailUnconfirmed'; messageId: Id }
    | { kind: 'emailSettled'; messageId: Id; wentOut: boolean }
    | { kind: 'emailBounced'; messageId: Id }
    | { kind: 'emailReplied'; messageId: Id | null }
    | { kind: 'unsubscribed' }
    /** Actions that were chosen for many prospects at once; `actionId` is the bulk action's. */
    | { kind: 'actionsRun'; actionId: Id; actions: readonly ConfiguredAction[] }
    /** They filled in a form on the web; new: nobody here knew them. */
    | { kind: 'formSent'; formId: Id; isNew: boolean }
    | { kind: 'stageMoved'; to: Id; reason: string | null; note: string | null; override: string | null }
    | { kind: 'stopSet'; channel: Channel; on: boolean }
    | { kind: 'prospectStatusSet'; to: ProspectStatus; reason?: string | null }
    /** A number's status corrected by hand. */
    | { kind: 'phoneStatusSet'; phoneId: Id; to: PhoneStatus }
    /** `another`: though one is open at the company. */
    | { kind: 'dealOpened'; dealId: Id; deal: DealTerms; another: boolean }
    | { kind: 'dealChanged'; dealId: Id; change: Partial<DealTerms> }
    | { kind: 'dealClosed'; dealId: Id; result: 'won' | 'lost'; reason: string | null; value?: number | null }
    | { kind: 'meetingMoved'; meetingId: Id; startAt: Instant; minutes: number; timeZone: string }
    | { kind: 'meetingCancelled'; meetingId: Id }
    | { kind: 'meetingResult'; meetingId: Id; result: MeetingResult }
    /** An email address corrected by hand, or found not to work. */
    | { kind: 'addressStatusSet'; emailAddressId: Id; to: EmailAddressStatus }
    /** Something was undone; what follows from it is worked out in undo.ts. */
    | { kind: 'undone'; targetId: Id }
    | { kind: 'companyStatusSet'; to: CompanyStatus }
  )
export type DomainEventKind = DomainEvent['kind']

/** Why something was not done: which field of the request, and a sentence for the person who asked. */
export interface Problem {
  field: string
  message: string
}
