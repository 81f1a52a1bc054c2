import type { Id } from '../instant'
import { inverse, type Effect } from './effects'
import type { EntityName, Rows, Situation } from './situation'

/** What taking something back would do, and what it has to leave as it is. */
export interface Undoing {
  effects: Effect[]
  /** Sentences on what stays, for the person who takes it back. */
  kept: string[]
}

const GONE = new Set(['sending', 'sent', 'unconfirmed'])

/**
 * Takes back the effects of a whole causal tree, given newest first. Each inverse names the value it expects; where
 * somebody has changed it since, it is kept and said. Mail that has left stays, with the touch that records it.
 */
export function undoEffects(newestFirst: readonly Effect[], situation: Situation): Undoing {
  const world = new Map<string, Record<string, unknown> | null>()
  const key = (entity: EntityName, id: Id) => `${entity}:${id}`
  const current = (entity: EntityName, id: Id): Record<string, unknown> | null => {
    const known = world.get(key(entity, id))
    return known !== undefined ? known : ((situation[entity] as Rows<typeof entity>)[id] as unknown as Record<string, unknown> | undefined) ?? null
  }
  const effects: Effect[] = []
  const kept: string[] = []
  const keptRows = new Set<string>()
  for (const effect of newestFirst) {
    const back = inverse(effect)
    const row = current(effect.entity, effect.id)
    const reason = whyKept(effect, row, keptRows)
    if (reason !== null) {
      keptRows.add(key(effect.entity, effect.id))
      if (reason && !kept.includes(reason)) kept.push(reason)
      continue
    }
    effects.push(back)
    world.set(key(effect.entity, effect.id), back.after === null ? null : { ...row, ...back.after })
  }
  return { effects, kept }
}

/** Why an effect cannot be taken back: a sentence, '' for what goes without saying, null when it can. */
function whyKept(effect: Effect, row: Record<string, unknown> | null, keptRows: ReadonlySet<string>): string | null {
  if (effect.entity === 'message' && row && GONE.has(row.state as string)) return 'The email that has gone out stays sent'
  const after = effect.after as Record<string, unknown> | null
  if (effect.entity === 'touch' && after?.messageId && keptRows.has(`message:${after.messageId as string}`)) return ''
  if (after === null) return row === null ? null : whatStays(effect.entity)
  if (row === null) return `${NOUNS[effect.entity]} is gone already`
  const same = Object.keys(after).every(field => row[field] === after[field])
  return same ? null : whatStays(effect.entity)
}

const NOUNS: Record<EntityName, string> = {
  prospect: 'The person', company: 'The company', email: 'The address', phone: 'The number', enrollment: 'The way through the cadence',
  task: 'A task', message: 'An email', touch: 'A touch', deal: 'The deal', appointment: 'The meeting',
}

function whatStays(entity: EntityName): string {
  return `${NOUNS[entity]} has been changed since and stays as it is`
}
