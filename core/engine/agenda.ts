import type { Instant } from '../instant'
import type { Entities, EntityName } from './engineState'

/** What waits in the world's time for one row. One row waits for one thing at most. */
export interface AgendaEntry {
  kind: 'step' | 'mail'
  at: Instant
}

/** What the calendar holds for a row as it stands: a step that falls due, mail that is to leave; null for nothing. */
export function agendaOf<E extends EntityName>(entity: E, row: Entities[E] | null): AgendaEntry | null {
  if (row === null) return null
  if (entity === 'enrollment') {
    const { status, dueAt } = row as Entities['enrollment']
    return status === 'waiting' && dueAt !== null ? { kind: 'step', at: dueAt } : null
  }
  if (entity === 'message') {
    const { status, sendAt } = row as Entities['message']
    return status === 'queued' ? { kind: 'mail', at: sendAt } : null
  }
  return null
}
