import { EMAIL_TYPES, STEP_KINDS, type EmailType, type StepKind } from '../../enumerations'
import { firstStep } from '../../cadence/route'
import type { Cadence } from '../../cadence/steps'
import {
  companyOf,
  fullName,
  openEnrollments,
  usableEmail,
  usablePhones,
  type Prospect,
  type EngineState,
} from '../state/engineState'

/**
 * Why nothing at all may go to this person now, in words, or null. A stop on the company counts for everyone there;
 * cold work also keeps away from a company in a deal or already a customer.
 */
export function whyStopped(state: EngineState, prospect: Prospect, cold: boolean): string | null {
  if (prospect.status === 'archived') return `${fullName(prospect)} is archived`
  if (prospect.status === 'paused') return `${fullName(prospect)} is paused`
  const company = companyOf(state, prospect)
  if (company?.status === 'do_not_contact') return `${company.name} is not to be contacted`
  if (company?.status === 'not_a_fit') return `${company.name} is not a fit`
  if (cold && company?.status === 'in_deal') return `${company.name} is in a deal`
  if (cold && company?.status === 'customer') return `${company.name} is a customer`
  if (prospect.stopCall && prospect.stopEmail) return `${fullName(prospect)} is not to be contacted`
  return null
}

/** The kind of mail a cadence's steps are: cold ones are written to one person, the others were asked for. */
export function emailTypeOf(cold: boolean): EmailType {
  return cold ? 'one_to_one' : 'requested'
}

/** Why the person may not be mailed, or null; with a kind, also where they take none of that. */
export function whyNoEmail(state: EngineState, prospect: Prospect, kind: EmailType | null = null): string | null {
  if (prospect.stopEmail) return 'asked for no email'
  if (kind && state.optedOutOf[prospect.id]?.includes(kind)) return `takes no ${EMAIL_TYPES[kind]} email`
  return usableEmail(state, prospect.id) ? null : 'no email address that works'
}

/** Why the person may not be called, or null. Hours are the calendar's matter, not this one's. */
export function whyNoCall(state: EngineState, prospect: Prospect): string | null {
  if (prospect.stopCall) return 'asked for no calls'
  return usablePhones(state, prospect.id).length ? null : 'no phone number that works'
}

/** Why the person may not be sent a text, or null: a text goes to a mobile number, and a stop on calls holds for it. */
export function whyNoText(state: EngineState, prospect: Prospect): string | null {
  if (prospect.stopCall) return 'asked for no calls'
  return usablePhones(state, prospect.id).some(({ kind }) => kind === 'mobile') ? null : 'no mobile number that works'
}

/** Why a step of a kind cannot be done for the person at all, or null where it can. */
export function whyNoStep(state: EngineState, prospect: Prospect, kind: StepKind, cold: boolean): string | null {
  if (kind === 'email') return whyNoEmail(state, prospect, emailTypeOf(cold))
  if (kind === 'call') return whyNoCall(state, prospect)
  return kind === 'text' ? whyNoText(state, prospect) : null
}

/** Why the person may not be enrolled in the cadence now, in words, or null. */
export function whyNotEnroll(
  state: EngineState,
  prospect: Prospect,
  cadence: Cadence,
  stageKind: string,
): string | null {
  const first = firstStep(cadence)
  if (cadence.status === 'paused') return 'The cadence is paused'
  if (cadence.status !== 'active' || !first) return 'The cadence is not active'
  if (openEnrollments(state, prospect.id).some((row) => row.cadenceId === cadence.id)) {
    return 'Already in this cadence'
  }
  const stopped = whyStopped(state, prospect, cadence.cold)
  if (stopped) return stopped
  if (cadence.cold && (stageKind === 'won' || stageKind === 'closed')) return 'The stage is closed'
  const unreachable = whyNoStep(state, prospect, first.kind, cadence.cold)
  return unreachable && `Starts with ${first.kind === 'email' ? 'an' : 'a'} ${STEP_KINDS[first.kind]}: ${unreachable}`
}

/** Why no call or task may be planned for the person, in words, or null. */
export function whyNotPlan(state: EngineState, prospect: Prospect, task: 'call' | 'task'): string | null {
  return whyStopped(state, prospect, false) ?? (task === 'call' ? whyNoCall(state, prospect) : null)
}

/** Why mail written for many may not go to the person, in words, or null. */
export function whyNoMailOfMany(state: EngineState, prospect: Prospect): string | null {
  return whyStopped(state, prospect, false) ?? whyNoEmail(state, prospect)
}
