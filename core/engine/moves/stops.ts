import { STEP_KINDS, type EmailType, type StepKind, type ToDoKind } from '../../enumerations'
import { whyNotAgain, whyNotToday, type EntryFacts } from '../../cadence/entry'
import { firstStep } from '../../cadence/route'
import { emailTypeOf, type Cadence } from '../../cadence/steps'
import { print } from '../../filter/sentence'
import type { Id } from '../../instant'
import { barrierInWords, stopInWords, type Barrier, type Stop } from '../state/causes'
import { fitsNow } from '../state/facts'
import type { Playbook } from '../state/playbook'
import {
  colleaguesOf,
  companyOf,
  fullName,
  openEnrollments,
  usableEmail,
  usablePhones,
  type Phone,
  type Prospect,
  type EngineState,
} from '../state/engineState'

/**
 * Why nothing at all may go to this person now, or null. A stop on the company counts for everyone there;
 * cold work also keeps away from a company in a deal or already a customer.
 */
export function stopOf(state: EngineState, prospect: Prospect, cold: boolean): Stop | null {
  if (prospect.status === 'archived') return 'person_archived'
  if (prospect.status === 'paused') return 'person_paused'
  const company = companyOf(state, prospect)
  if (company?.status === 'do_not_contact') return 'company_do_not_contact'
  if (company?.status === 'not_a_fit') return 'company_not_a_fit'
  if (cold && company?.status === 'in_deal') return 'company_in_deal'
  if (cold && company?.status === 'customer') return 'company_customer'
  return prospect.stopCall && prospect.stopEmail ? 'person_do_not_contact' : null
}

/** As `stopOf`, in words. */
export function whyStopped(state: EngineState, prospect: Prospect, cold: boolean): string | null {
  const stop = stopOf(state, prospect, cold)
  return stop && stopInWords(stop, fullName(prospect), companyOf(state, prospect)?.name ?? '')
}

/** What keeps email from the person, or null; with a kind, also where they take none of that. */
export function emailBarrier(state: EngineState, prospect: Prospect, kind: EmailType | null = null): Barrier | null {
  if (prospect.stopEmail) return 'no_email_wanted'
  if (kind && state.optedOutOf[prospect.id]?.includes(kind)) return `no_${kind}_email`
  return usableEmail(state, prospect.id) ? null : 'no_email_address'
}

/** What keeps calls from the person, or null. Hours are the calendar's matter, not this one's. */
function callBarrier(state: EngineState, prospect: Prospect): Barrier | null {
  if (prospect.stopCall) return 'no_calls_wanted'
  return usablePhones(state, prospect.id).length ? null : 'no_phone_number'
}

/** Whether a number may be sent texts, as far as its person has said. */
export const takesTexts = ({ textConsent }: Pick<Phone, 'textConsent'>): boolean =>
  textConsent === 'unknown' || textConsent === 'given'

/** What keeps texts from the person, or null: a text goes to a mobile number, and a stop on calls holds for it. */
function textBarrier(state: EngineState, prospect: Prospect): Barrier | null {
  if (prospect.stopCall) return 'no_calls_wanted'
  const mobile = usablePhones(state, prospect.id).filter(({ kind }) => kind === 'mobile')
  if (!mobile.length) return 'no_mobile_number'
  return mobile.some(takesTexts) ? null : 'no_texts_wanted'
}

/** What keeps a step of a kind from being done for the person at all, or null where it can be. */
export function stepBarrier(
  state: EngineState,
  prospect: Prospect,
  kind: StepKind,
  cadence: Pick<Cadence, 'cold' | 'emailType'>,
): Barrier | null {
  if (kind === 'email') return emailBarrier(state, prospect, emailTypeOf(cadence))
  if (kind === 'call') return callBarrier(state, prospect)
  return kind === 'text' ? textBarrier(state, prospect) : null
}

const said = (barrier: Barrier | null) => barrier && barrierInWords(barrier)

/** Why the person may not be mailed, in words, or null. */
export const whyNoEmail = (...asked: Parameters<typeof emailBarrier>): string | null => said(emailBarrier(...asked))
/** Why the person may not be called, in words, or null. */
export const whyNoCall = (...asked: Parameters<typeof callBarrier>): string | null => said(callBarrier(...asked))
/** Why the person may not be sent a text, in words, or null. */
export const whyNoText = (...asked: Parameters<typeof textBarrier>): string | null => said(textBarrier(...asked))

/** Why a colleague keeps the person out of the cadence, or null. What was not read of them counts as it was read. */
function whyNotBesides(state: EngineState, prospect: Prospect, cadence: Cadence): string | null {
  const { colleagues: rule } = cadence.entry
  if (rule === 'any') return null
  const isIn = (cadenceId: Id) => rule === 'not_in_any' || cadenceId === cadence.id
  const read = entryFacts(state, prospect).colleagues.filter(({ prospectId }) => !state.prospect[prospectId])
  const now = colleaguesOf(state, prospect).flatMap(({ id }) => openEnrollments(state, id))
  if (![...read, ...now].some(({ cadenceId }) => isIn(cadenceId))) return null
  return rule === 'not_in_any' ? 'A colleague is in a cadence' : 'A colleague is in this cadence'
}

/** Throws where rules on who may enter ask what was not read of the person. */
function entryFacts(state: EngineState, prospect: Prospect): EntryFacts {
  const read = state.entries[prospect.id]
  if (!read) throw new Error(`What entry rules ask was not read of prospect ${prospect.id}`)
  return read
}

/** Why the cadence’s own rules keep the person out, in words, or null. */
function whyNotByRules(state: EngineState, book: Playbook, prospect: Prospect, cadence: Cadence): string | null {
  const { entry } = cadence
  const today = whyNotToday(entry, state.now, book.timeZone)
  if (today) return today
  if (entry.again !== 'always') {
    const again = whyNotAgain(entry, entryFacts(state, prospect).leftAt[cadence.id], state.now)
    if (again) return again
  }
  const colleague = whyNotBesides(state, prospect, cadence)
  if (colleague) return colleague
  if (!entry.where || fitsNow(state, book, prospect.id, entry.where)) return null
  return `Does not fit: ${print(entry.where, book.filterFields)}`
}

/** Why the person may not be enrolled in the cadence now, in words, or null. */
export function whyNotEnroll(state: EngineState, book: Playbook, prospect: Prospect, cadence: Cadence): string | null {
  const first = firstStep(cadence)
  const stageKind = book.stages[prospect.stageId]?.kind ?? 'open'
  if (cadence.status === 'paused') return 'The cadence is paused'
  if (cadence.status !== 'active' || !first) return 'The cadence is not active'
  if (openEnrollments(state, prospect.id).some((row) => row.cadenceId === cadence.id)) {
    return 'Already in this cadence'
  }
  const stopped = whyStopped(state, prospect, cadence.cold)
  if (stopped) return stopped
  if (cadence.cold && (stageKind === 'won' || stageKind === 'closed')) return 'The stage is closed'
  const against = whyNotByRules(state, book, prospect, cadence)
  if (against) return against
  const unreachable = said(stepBarrier(state, prospect, first.kind, cadence))
  return unreachable && `Starts with ${first.kind === 'email' ? 'an' : 'a'} ${STEP_KINDS[first.kind]}: ${unreachable}`
}

/** Why no to-do of a kind may be planned for the person, in words, or null. */
export function whyNotPlan(state: EngineState, prospect: Prospect, task: ToDoKind): string | null {
  const unreachable = { call: whyNoCall, email: whyNoEmail, text: whyNoText, task: () => null }[task]
  return whyStopped(state, prospect, false) ?? unreachable(state, prospect)
}

/** Why mail written for many may not go to the person, in words, or null. */
export function whyNoMailOfMany(state: EngineState, prospect: Prospect): string | null {
  return whyStopped(state, prospect, false) ?? whyNoEmail(state, prospect)
}
