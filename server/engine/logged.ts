import { EVENTS, type EventKindName } from '#core/events/registry'
import type { Cause, Effect } from '#core/engine/state/effects'
import type { EngineState } from '#core/engine/state/engineState'
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

/** The cause of an effect as the log holds it: codes and ids, without what was said in words. */
export function loggedCause({ said: _said, ...cause }: Cause): string {
  return JSON.stringify(cause)
}

/**
 * What an event says beside its ids and codes, divided as its kind says: what the log holds, and what people wrote,
 * which can be erased.
 */
export function divide(
  kind: EventKindName,
  content: Readonly<Record<string, unknown>>,
): { logged: Record<string, unknown>; texts: Record<string, string> | null } {
  const logged = structuredClone(content) as Record<string, unknown>
  const texts: Record<string, string> = {}
  for (const [path, where] of Object.entries(EVENTS[kind].redact)) {
    const keys = path.split('.')
    const last = keys.pop()!
    let holder: Record<string, unknown> | undefined = logged
    for (const key of keys) holder = holder?.[key] as Record<string, unknown> | undefined
    const value = holder?.[last]
    if (value === undefined) continue
    delete holder![last]
    if (where === 'beside' && typeof value === 'string' && value.trim()) texts[last] = value.trim()
  }
  return { logged, texts: Object.keys(texts).length ? texts : null }
}

/** Whom an effect concerns; null for a change of a company, or of whose turn it is. */
export function prospectOf(effect: Effect, after: EngineState): Id | null {
  if (effect.entity === 'company' || effect.entity === 'turn') return null
  if (effect.entity === 'prospect') return effect.id
  const row = after[effect.entity][effect.id] ?? (effect.before as { prospectId?: Id } | null)
  return row?.prospectId ?? null
}
