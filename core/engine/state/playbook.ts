import { z } from 'zod'
import {
  CHANNELS,
  COMPANY_STATUSES,
  SCOPES,
  valuesOf,
  type CountsAs,
  type ExitReason,
  type PhoneStatus,
  type RequiredInput,
} from '../../enumerations'
import type { Id } from '../../instant'
import type { Cadence } from '../../cadence/steps'
import type { Holidays } from '../../calendar/local'
import type { Hours } from '../../calendar/window'
import type { Stage } from '../../stage/gate'

/** Why an outcome may end a cadence. */
export const OUTCOME_EXITS = [
  'replied',
  'meeting_booked',
  'stopped',
  'not_interested',
  'not_a_fit',
  'unreached',
  'wrong_person',
  'removed',
] as const satisfies readonly ExitReason[]

/** What an outcome may mark a number as. */
export const MARKED = ['correct', 'wrong', 'disconnected', 'do_not_call'] as const satisfies readonly PhoneStatus[]

/** When an action applies, by the number of attempts made including this one. */
const when = {
  /** From this attempt on. */
  fromAttempt: z.number().int().min(1).max(99).optional(),
  /** Only before this attempt. */
  beforeAttempt: z.number().int().min(1).max(99).optional(),
}

/** One action an outcome carries. */
export const outcomeActionSchema = z.discriminatedUnion('type', [
  z.object({ type: z.literal('advance'), ...when }),
  z.object({ type: z.literal('callBack'), ...when }),
  z.object({
    type: z.literal('exit'),
    scope: z.enum(['cadence', 'all', 'company']),
    as: z.enum(OUTCOME_EXITS),
    ...when,
  }),
  z.object({
    type: z.literal('moveStage'),
    to: z.string(),
    onlyFrom: z.array(z.string()).optional(),
    scope: z.enum(valuesOf(SCOPES)).optional(),
    ...when,
  }),
  z.object({
    type: z.literal('setCompanyStatus'),
    to: z.enum(valuesOf(COMPANY_STATUSES)),
    ...when,
  }),
  z.object({ type: z.literal('markNumber'), as: z.enum(MARKED), ...when }),
  z.object({ type: z.literal('stop'), channel: z.enum(valuesOf(CHANNELS)), ...when }),
  z.object({
    type: z.literal('makeTask'),
    title: z.string().min(1).max(200),
    days: z.number().int().min(0).max(730),
    ...when,
  }),
  z.object({ type: z.literal('bookMeeting'), ...when }),
  z.object({ type: z.literal('openDeal'), likelihood: z.number().int().min(0).max(100), ...when }),
  z.object({ type: z.literal('addReferral'), ...when }),
])
export type OutcomeAction = z.infer<typeof outcomeActionSchema>

/** The disposition of a call: what the rep picks. */
export interface Outcome {
  id: Id
  name: string
  position: number
  countsAs: CountsAs
  requiredInputs: readonly RequiredInput[]
  /** Choices offered where a reason is asked. */
  reasons: readonly string[]
  actions: readonly OutcomeAction[]
  /** Kept for what was logged with it, no longer offered. */
  archived: boolean
}

/** What the team decided. Loaded as a whole and replaced as a whole when its version moves. */
export interface Playbook {
  version: number
  stages: Readonly<Record<Id, Stage>>
  outcomes: Readonly<Record<Id, Outcome>>
  /** The names of the custom fields of people and companies, by their keys in filters and gates. */
  customFields: Readonly<Record<string, string>>
  cadences: Readonly<Record<Id, Cadence>>
  holidays: Holidays
  /** The team's own calling hours; the law's bounds are put on top. */
  callHours: Hours
  /** Days until a person is taken up again when nothing else is planned. Common practice, no published source: 30. */
  fallbackDays: number
  /** Business days until someone who did not answer is called again when nothing else is planned. */
  retryDays: number
  /** Whether an unanswered attempt counts where no call was made from here and none was logged as made elsewhere. */
  countsUncalled: boolean
  /** How many unanswered attempts make someone unreached. Common practice, no published source: 3. */
  attemptsAllowed: number
  /** The stage a first touch moves a new person to. */
  firstTouch: { from: Id; to: Id } | null
  /** The stage an answer moves an open or paused person to. */
  answered: Id | null
}
