import { EMAIL_TYPES, type EmailType } from '../../enumerations'
import type { Id } from '../../instant'
import { inWords, type TouchInterval } from '../../queue/touchGoal'

/** Why nothing at all may go to a person: what is so of them or of their company. */
export const STOPS = {
  person_archived: 'is archived',
  person_paused: 'is paused',
  person_do_not_contact: 'is not to be contacted',
  company_do_not_contact: 'is not to be contacted',
  company_not_a_fit: 'is not a fit',
  company_in_deal: 'is in a deal',
  company_customer: 'is a customer',
} as const
export type Stop = keyof typeof STOPS

/** A stop in words, of these two names. */
export function stopInWords(stop: Stop, person: string, company: string): string {
  return `${stop.startsWith('company') ? company : person} ${STOPS[stop]}`
}

/** Why a step cannot be done for a person at all. */
export const BARRIERS = {
  no_email_wanted: 'asked for no email',
  no_email_address: 'no email address that works',
  no_calls_wanted: 'asked for no calls',
  no_phone_number: 'no phone number that works',
  no_mobile_number: 'no mobile number that works',
  no_texts_wanted: 'asked for no more texts',
  no_calling_hours: 'the team’s hours never fall into calling hours where they are',
  sent_before: 'this email has gone out before',
  step_before_not_done: 'the step before it was not done',
} as const
export type Barrier = keyof typeof BARRIERS | `no_${EmailType}_email`

/** A barrier in words. */
export function barrierInWords(barrier: Barrier): string {
  if (barrier in BARRIERS) return BARRIERS[barrier as keyof typeof BARRIERS]
  return `takes no ${EMAIL_TYPES[barrier.slice(3, -6) as EmailType]} email`
}

/** The values of a rule's sentence: ids and codes, so that a log that holds a cause holds nothing about anyone. */
export interface CauseValues {
  days?: number
  every?: TouchInterval
  stageId?: Id
  stepId?: Id
  wayId?: Id
  stop?: Stop
  barrier?: Barrier
}

/** The names that a rule's sentence needs, by id. */
export interface CauseNames {
  stage: (id: Id | undefined) => string
  step: (id: Id | undefined) => string
  /** The name of one of a branch's ways; null where it has none. */
  way: (stepId: Id | undefined, wayId: Id | undefined) => string | null
}

type Sentence = string | ((values: CauseValues, names: CauseNames) => string)

/** Every rule by which the program does something by itself, with the sentence that says so where it is read. */
export const RULES = {
  abandonedCall: 'An abandoned call is called back',
  actionSkipped: 'The scheduled action was left out',
  addressFailed: 'The email address does not work',
  cadenceEnded: 'The cadence has ended',
  cadenceIsPlan: 'The cadence is the plan now',
  cadenceWentOn: 'The cadence has gone on',
  companyIsCustomer: 'Their company is a customer',
  companyStopped: 'A stop on a company is a stop for everyone there',
  dealOpen: 'A deal is open there',
  dealWon: 'A deal was won',
  dealWonThere: 'A deal was won there',
  emailFirstContact: 'The email is the first contact',
  emailHeld: 'The email lacks a value that its text needs',
  emailNotSent: ({ barrier }) => `The email could not go out${barrier ? `: ${barrierInWords(barrier)}` : ''}`,
  emailUnconfirmed: 'The email may have gone out already',
  exitBounced: 'Their email address bounced',
  exitDeal: 'A deal was opened',
  exitForm: 'They sent a form',
  exitNoAddress: 'No email address is left that works',
  exitStage: 'They came to a stage that ends the cadence',
  firstContact: 'New prospects wait on the Desk for a first contact',
  firstTouch: 'The first touch starts the work',
  gateOverridden: 'Gate overridden',
  missedCall: 'A missed call is called back',
  nextStepFallback: ({ days }) => `Every prospect has a next step: ${days} days where nothing else is planned`,
  nextStepGoal: ({ every }) => `Every prospect has a next step: their list’s touch goal is ${inWords(every!)}`,
  nextStepRetry: ({ days }) => `Every prospect has a next step: another try after ${days} business days`,
  noDealOpen: 'No deal is open there now',
  noStepLeft: 'No step is left',
  optOut: 'An opt-out is honored at once',
  planReplaced: 'A newer plan has taken its place',
  prospectStopped: 'Nothing goes to people who are paused or archived',
  replied: 'They have replied',
  replyEndsCadence: 'A reply ends the cadence',
  stageClosed: ({ stageId }, names) => `${names.stage(stageId)} is closed: nothing more is planned`,
  stepDone: 'Nothing of this step is still open',
  stepLeftOut: ({ stepId, barrier }, names) => `${names.step(stepId)}: left out, ${barrierInWords(barrier!)}`,
  stopped: ({ stop }) => stopInWords(stop!, 'The person', 'The company'),
  textFirstContact: 'The text is the first contact',
  textNotDelivered: 'The text was not delivered',
  textWishes: 'They said so by text',
  undoStopped: 'A stop has been set since',
  wayFits: ({ stepId, wayId }, names) =>
    `“${names.step(stepId)}”: ${names.way(stepId, wayId) ?? 'one of its ways fits'}`,
  wayTaken: ({ stepId, wayId }, names) => `“${names.step(stepId)}”: ${names.way(stepId, wayId) ?? 'otherwise'}`,
} satisfies Record<string, Sentence>
export type Rule = keyof typeof RULES

/** Rules that say in words, beside the log, what was found at that moment. */
export const FINDS_IN_WORDS: ReadonlySet<Rule | undefined> = new Set<Rule>(['actionSkipped', 'emailNotSent'])

/** What a rule says. */
export function ruleInWords(rule: Rule, values: CauseValues, names: CauseNames): string {
  const sentence: Sentence = RULES[rule]
  return typeof sentence === 'string' ? sentence : sentence(values, names)
}
