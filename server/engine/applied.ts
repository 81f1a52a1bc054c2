import type { Effect } from '#core/engine/state/effects'
import type { DomainEvent } from '#core/engine/state/events'
import type { Id, Instant } from '#core/instant'

/** An event with what it came to. */
export interface Applied {
  event: DomainEvent | UndoneEvent
  effects: readonly Effect[]
}

/** The taking back of another event: logged like any other. */
export interface UndoneEvent {
  id: Id
  kind: 'undone'
  at: Instant
  prospectId: Id
  actorId: Id | null
  causedByEventId: Id | null
  targetId: Id
}
