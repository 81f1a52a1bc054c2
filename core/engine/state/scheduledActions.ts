import type { Instant } from '../../instant'
import type { Entities, EntityName } from './engineState'

/** What may be due: a step of a cadence, an email that is to leave, an action that waits. */
export type ScheduledKind = 'step' | 'email' | 'action'

/** What waits in the world's time for one row. One row waits for one thing at most. */
export interface ScheduledAction {
  kind: ScheduledKind
  at: Instant
}

/** What the calendar holds for a row as it stands: null for nothing. */
export function scheduledActionOf<E extends EntityName>(entity: E, row: Entities[E] | null): ScheduledAction | null {
  if (row === null) return null
  if (entity === 'enrollment') {
    const { status, dueAt } = row as Entities['enrollment']
    return status === 'waiting' && dueAt !== null ? { kind: 'step', at: dueAt } : null
  }
  if (entity === 'emailMessage') {
    const { status, sendAt } = row as Entities['emailMessage']
    return status === 'queued' ? { kind: 'email', at: sendAt } : null
  }
  if (entity === 'delayedAction') {
    const { status, runAt } = row as Entities['delayedAction']
    return status === 'waiting' ? { kind: 'action', at: runAt } : null
  }
  return null
}
