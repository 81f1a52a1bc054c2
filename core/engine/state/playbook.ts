import type { QueuePriority } from '../../queue/priorities'
import type { CountsAs, OutcomeUse, RequiredInput } from '../../enumerations'
import type { Id } from '../../instant'
import type { Cadence } from '../../cadence/steps'
import type { Wait } from '../../cadence/wait'
import type { Holidays } from '../../calendar/local'
import type { SendingWindow } from '../../calendar/sendingWindow'
import type { Hours } from '../../calendar/window'
import type { Field } from '../../filter/fields'
import type { Filter } from '../../filter/filter'
import type { Stage } from '../../stage/gate'

/** When an action of an outcome applies; all of it must hold. */
export interface ActionTerms {
  /** From this attempt on, the one that is logged counted. */
  fromAttempt?: number | undefined
  /** Only before this attempt. */
  beforeAttempt?: number | undefined
  /** Only for prospects who stand in one of these stages. */
  inStages?: readonly Id[] | undefined
  /** Only where the call belongs to one of these cadences. */
  inCadences?: readonly Id[] | undefined
  /** Only for prospects who are in no cadence. */
  noCadence?: true | undefined
  /** Only for prospects who fit this filter, when it is done. */
  where?: Filter | undefined
  /** How long it waits; at once without it. */
  after?: Wait | undefined
}

/** An action with its values, as it is configured; what they are, its kind in core/actions knows. */
export interface ConfiguredAction extends ActionTerms {
  type: string
}

/** The disposition of a call: what the rep picks. */
export interface Outcome {
  id: Id
  name: string
  position: number
  countsAs: CountsAs
  /** What work it can be logged on; one at least. */
  usedFor: readonly OutcomeUse[]
  requiredInputs: readonly RequiredInput[]
  /** What must be known of the person before it can be logged: fields as gates name them. */
  requiredFields: readonly string[]
  /** Choices offered where a reason is asked. */
  reasons: readonly string[]
  /** Whether it says that a voicemail was left. */
  leavesMessage: boolean
  actions: readonly ConfiguredAction[]
  /** Kept for what was logged with it, no longer offered. */
  archived: boolean
}

/** A form on the web, as the engine needs it: what is done with who sends it. */
export interface Form {
  id: Id
  name: string
  actions: readonly ConfiguredAction[]
}

/** What the team decided. Loaded as a whole and replaced as a whole when its version moves. */
export interface Playbook {
  version: number
  stages: Readonly<Record<Id, Stage>>
  outcomes: Readonly<Record<Id, Outcome>>
  forms: Readonly<Record<Id, Form>>
  /** The names of the custom fields of people and companies, by their keys in filters and gates. */
  customFields: Readonly<Record<string, string>>
  cadences: Readonly<Record<Id, Cadence>>
  /** What is done with who is through a cadence, in order, by the cadence's id; nothing where it is not there. */
  afterLast: Readonly<Record<Id, readonly ConfiguredAction[]>>
  /** The names of what is spoken of by id: tags, fixed lists, users, stages of deals. */
  names: Readonly<Record<Id, string>>
  /** What filters can ask of prospects, by key, and the zone their days are counted in: the team's. */
  filterFields: ReadonlyMap<string, Field>
  timeZone: string
  /** The currency of the team's deals (ISO 4217). */
  currency: string
  /** The team's country (ISO 3166-1 alpha-2). */
  country: string
  /** The time zones of active users, by their ids. */
  userZones: Readonly<Record<Id, string>>
  /** The sending window of what no cadence sends. */
  defaultWindow: SendingWindow
  holidays: Holidays
  /** The team's own calling hours; the law's bounds are put on top. */
  callHours: Hours
  /** Days until a person is taken up again when nothing else is planned. Common practice, no published source: 30. */
  fallbackDays: number
  /** Business days until someone who did not answer is called again when nothing else is planned. */
  retryDays: number
  /** Whether an unanswered attempt counts where no call was made from here and none was logged as made elsewhere. */
  countsUncalled: boolean
  /** Whether a note is required with every attempt. */
  attemptNotes: boolean
  /** The team's words for how a call went. */
  callQualities: readonly string[]
  /** How many unanswered attempts make someone unreached. Common practice, no published source: 3. */
  attemptsAllowed: number
  /** What the team works before the rest of the queue, in order. */
  queuePriorities: readonly QueuePriority[]
  /** The stage a first touch moves a new person to. */
  firstTouch: { from: Id; to: Id } | null
  /** The stage an answer moves an open or paused person to. */
  answered: Id | null
}
