import type { OutcomeDetails } from '#core/engine/state/events'
import type { Outcome } from '#core/engine/state/playbook'
import { linkId, usableEmail, usablePhones, type EngineState } from '#core/engine/state/engineState'
import type { Id } from '#core/instant'
import { DAY } from '#core/instant'

/** What stands in for details that are asked for only once an outcome is chosen. */
export function assumedDetails(outcome: Outcome, now: number): OutcomeDetails {
  const { requiredInputs } = outcome
  return {
    ...(requiredInputs.includes('callBackAt') && { callBackAt: now + DAY }),
    ...(requiredInputs.includes('reason') && { reason: 'assumed' }),
    ...(requiredInputs.includes('note') && { note: 'assumed' }),
    ...(requiredInputs.includes('meeting') && {
      meeting: { title: 'Meeting', startAt: now + DAY, minutes: 30, timeZone: 'UTC' },
    }),
    ...(requiredInputs.includes('referral') && { referral: { firstName: 'assumed', lastName: '' } }),
  }
}

/**
 * The state as if fields of a prospect had been filled in, by their keys for gates: what an outcome that asks for them
 * will do is said beforehand. A company is not made up.
 */
export function withFields(state: EngineState, prospectId: Id, keys: readonly string[]): EngineState {
  let filled = state
  for (const key of keys) {
    const prospect = filled.prospect[prospectId]!
    const row = { id: `assumed-${key}`, prospectId, position: 0 }
    if (key === 'title' || key === 'country' || key === 'region') {
      filled = {
        ...filled,
        prospect: { ...filled.prospect, [prospectId]: { ...prospect, [key]: prospect[key] || '—' } },
      }
    } else if (key === 'email' && !usableEmail(filled, prospectId)) {
      const address = { ...row, address: '', status: 'ok' as const }
      filled = { ...filled, emailAddress: { ...filled.emailAddress, [row.id]: address } }
    } else if (key === 'phone' && !usablePhones(filled, prospectId).length) {
      const phone = { ...row, number: '', kind: 'work', status: 'unverified' as const, textConsent: 'unknown' as const }
      filled = { ...filled, phone: { ...filled.phone, [row.id]: phone } }
    } else if (key.includes('custom:')) {
      const id = linkId(prospectId, key)
      filled = { ...filled, customValue: { ...filled.customValue, [id]: { id, prospectId, field: key, value: '—' } } }
    }
  }
  return filled
}
