import type { Cause, Effect } from '#core/engine/state/effects'
import { companyOf, fullName, type EngineState } from '#core/engine/state/engineState'
import type { Id } from '#core/instant'

/** Fields that say who someone is, or that people wrote: they are in the rows themselves and not in the log. */
const NOT_LOGGED: Readonly<Record<string, ReadonlySet<string>>> = {
  prospect: new Set(['firstName', 'lastName', 'title']),
  company: new Set(['name']),
  emailAddress: new Set(['address']),
  phone: new Set(['number']),
  task: new Set(['title']),
  meeting: new Set(['title', 'place']),
  deal: new Set(['name', 'closeReason']),
  touch: new Set(['reason']),
}

/** One side of an effect as the log holds it. */
export function loggedRow(entity: Effect['entity'], row: object | null): string | null {
  return row && JSON.stringify(row, (field, value: unknown) => (NOT_LOGGED[entity]?.has(field) ? undefined : value))
}

/** A sentence about someone without their name or their company's: both begin such sentences. */
function withoutNames(sentence: string, prospectId: Id | null, state: EngineState): string {
  const prospect = prospectId ? state.prospect[prospectId] : undefined
  if (!prospect) return sentence
  const company = companyOf(state, prospect)
  if (company && sentence.startsWith(`${company.name} `)) return `The company${sentence.slice(company.name.length)}`
  const name = fullName(prospect)
  return sentence.startsWith(`${name} `) ? `The person${sentence.slice(name.length)}` : sentence
}

/** The cause of an effect as the log holds it: what someone wrote is cut off, names are left out. */
export function loggedCause(cause: Cause, prospectId: Id | null, state: EngineState): string {
  if (!cause.summary) return JSON.stringify(cause)
  const summary = cause.summary.startsWith('Gate overridden:')
    ? 'Gate overridden'
    : withoutNames(cause.summary, prospectId, state)
  return JSON.stringify({ ...cause, summary })
}

/**
 * What an event says beside its ids and codes, divided: what the log holds, and what people wrote, which can be erased.
 */
export function divide(content: Readonly<Record<string, unknown>>): {
  logged: Record<string, unknown>
  texts: Record<string, string> | null
} {
  const { details, note: _note, reason, override, title: _title, why: _why, deal, change, ...rest } = content
  const unnamed = (terms: unknown) => {
    const { name: _name, ...remaining } = terms as Record<string, unknown>
    return remaining
  }
  const logged: Record<string, unknown> = {
    ...rest,
    ...(deal !== undefined && { deal: unnamed(deal) }),
    ...(change !== undefined && { change: unnamed(change) }),
  }
  const texts: Record<string, string> = {}
  const keep = (key: string, value: unknown) => {
    if (typeof value === 'string' && value.trim()) texts[key] = value.trim()
  }
  keep('reason', reason)
  keep('override', override)
  if (details) {
    const {
      note: _detailNote,
      referral: _referral,
      reason: given,
      meeting,
      ...asked
    } = details as Record<string, unknown>
    keep('reason', given)
    const { title: _meetingTitle, place: _place, email: _email, ...when } = (meeting ?? {}) as Record<string, unknown>
    logged.details = { ...asked, ...(meeting !== undefined && { meeting: when }) }
  }
  return { logged, texts: Object.keys(texts).length ? texts : null }
}

/** Whom an effect concerns; null for a change of a company. */
export function prospectOf(effect: Effect, after: EngineState): Id | null {
  if (effect.entity === 'company') return null
  if (effect.entity === 'prospect') return effect.id
  const row = after[effect.entity][effect.id] ?? (effect.before as { prospectId?: Id } | null)
  return row?.prospectId ?? null
}
