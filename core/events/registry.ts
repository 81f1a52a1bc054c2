import type { DomainEventKind } from '../engine/state/events'
import { callEvents } from './calls'
import { companyEvents } from './companies'
import { dealEvents } from './deals'
import type { EventKind } from './define'
import { emailEvents } from './email'
import { formEvents } from './forms'
import { listEvents } from './lists'
import { progressEvents } from './progress'
import { recordEvents } from './records'
import { textEvents } from './texts'

const ALL = {
  ...callEvents,
  ...emailEvents,
  ...textEvents,
  ...progressEvents,
  ...dealEvents,
  ...recordEvents,
  ...companyEvents,
  ...listEvents,
  ...formEvents,
}

/** The name of a kind of event, as the log holds it. */
export type EventKindName = keyof typeof ALL

/** Every kind of event; those that the engine reacts to are among them, or this does not compile. */
export const EVENTS: Readonly<Record<EventKindName, EventKind>> = ALL satisfies Record<DomainEventKind, EventKind>

/** What the log knows of a kind; null for one of an older version. */
export function eventKind(name: string): EventKind | null {
  return (EVENTS as Readonly<Record<string, EventKind>>)[name] ?? null
}
