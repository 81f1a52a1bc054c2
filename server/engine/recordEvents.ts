import type { PoolClient } from 'pg'
import { breadthOfEvent, joined } from '#core/engine/breadth'
import { reactAll } from '#core/engine/react'
import type { DomainEvent, Problem } from '#core/engine/state/events'
import type { Effect } from '#core/engine/state/effects'
import type { Playbook } from '#core/engine/state/playbook'
import type { EngineState } from '#core/engine/state/engineState'
import type { Id } from '#core/instant'
import { newId } from '#shared/newId'
import { breaksUnique, transaction, type Db, type Deferred } from '../db/pool'
import { apply } from './apply'
import { withFacts } from './facts'
import { load, loadLocked, lock, type Breadth } from './load'
import { currentPlaybook, latestPlaybook, playbook } from './playbook'

/** An event before it has its moment: the world's clock is read with the state. */
export type NewEvent = DomainEvent extends infer H
  ? H extends DomainEvent
    ? Omit<H, 'at'> & { at?: number }
    : never
  : never

/** What became of one event. */
export interface EventResult {
  event: DomainEvent
  effects: Effect[]
  problems: Problem[]
  /** What an action would have done and did not, and why. */
  skipped?: string[]
}

/** What a set of events came to, with the state on both sides, for explanations. */
export interface RecordResult {
  results: EventResult[]
  before: EngineState
  after: EngineState
  playbook: Playbook
}

/**
 * Reads what is needed to react: locks first, then the state and the playbook that holds. How wide it must look is
 * asked of the playbook in memory, and once more of the one that turns out to hold.
 */
async function prepare(
  client: Db,
  ids: readonly Id[],
  messageIds: readonly Id[],
  breadthOf: (book: Playbook) => Breadth,
): Promise<{ state: EngineState; playbook: Playbook }> {
  const breadth = breadthOf(latestPlaybook() ?? (await currentPlaybook(client)))
  const { state, playbookVersion } = await loadLocked(client, ids, messageIds, breadth)
  const book = await playbook(client, playbookVersion)
  const needed = breadthOf(book)
  const enough = (breadth.colleagues || !needed.colleagues) && (breadth.records || !needed.records)
  const whole = enough ? state : (await loadLocked(client, ids, messageIds, needed)).state
  return { state: await withFacts(client, whole, ids, needed, book, { locks: true }), playbook: book }
}

/** As `prepare`, for those of the people whom nobody else holds. */
export async function prepareFree(
  client: Db,
  ids: readonly Id[],
  messageIds: readonly Id[] = [],
  breadth: Breadth = { colleagues: false },
): Promise<{ state: EngineState; playbook: Playbook }> {
  const locked = await lock(client, ids, breadth, { skipLocked: true })
  const { state, playbookVersion } = await load(client, locked, messageIds, breadth)
  const book = await playbook(client, playbookVersion)
  return { state: await withFacts(client, state, locked, breadth, book, { locks: true }), playbook: book }
}

/**
 * Reacts to the events and writes what follows, inside a transaction that holds the locks. Refused ones leave no
 * trace.
 */
export function reactAndWrite(
  client: Db,
  later: Deferred,
  newEvents: readonly NewEvent[],
  state: EngineState,
  book: Playbook,
): RecordResult {
  const events = newEvents.map((event) => ({ ...event, at: event.at ?? state.now }) as DomainEvent)
  const { reactions, state: after } = reactAll(events, state, book, newId)
  const done = reactions.filter(({ reaction }) => reaction.problems.length === 0)
  if (done.length) {
    later(
      apply(
        client,
        done.map(({ event, reaction }) => ({ event, effects: reaction.effects })),
        after,
      ),
    )
  }
  return {
    results: reactions.map(({ event, reaction }) => ({ event, ...reaction })),
    before: state,
    after,
    playbook: book,
  }
}

/** What goes on around events in their transaction. */
export interface RecordHooks {
  /**
   * Finds out who does all this, together with the first reading; throws where it is nobody. Events without an
   * actor are theirs.
   */
  actor?(client: PoolClient): Promise<Id>
  /** Reads how often people are to be in touch with, by the goals of their lists. */
  touchGoals?(ids: readonly Id[]): Promise<EngineState['touchGoals']>
  /** Looks at the state before anything is decided; throws where the caller may not do this. */
  check?(state: EngineState): void
  /** Does, after the effects, what belongs to them: a note, the text of a mail. Looks at the problems too. */
  alsoWrite?(client: PoolClient, outcomes: RecordResult): Promise<void>
  /** People who are needed though nothing happens to them. */
  extraIds?: readonly Id[]
}

/** Inside a transaction: locks, loads, reacts and writes. */
async function recordInside(
  client: PoolClient,
  later: Deferred,
  newEvents: readonly NewEvent[],
  { actor: who, check: first, alsoWrite: inside, touchGoals, extraIds = [] }: RecordHooks,
): Promise<RecordResult> {
  const ids = [...new Set([...newEvents.map((event) => event.prospectId), ...extraIds])]
  const messageIds = newEvents.flatMap((event) => ('messageId' in event && event.messageId ? [event.messageId] : []))
  const prepared = prepare(client, ids, messageIds, (book) =>
    joined(newEvents.map((event) => breadthOfEvent(event, book))),
  )
  const [actorId, { state: loaded, playbook: book }] = await Promise.all([who?.(client) ?? null, prepared])
  const state = touchGoals ? { ...loaded, touchGoals: await touchGoals(ids) } : loaded
  first?.(state)
  const missing = newEvents.find((event) => !state.prospect[event.prospectId])
  if (missing) throw new Error(`There is no prospect ${missing.prospectId}`)
  const outcomes = reactAndWrite(
    client,
    later,
    newEvents.map((event) => ({ ...event, actorId: event.actorId ?? actorId })),
    state,
    book,
  )
  await inside?.(client, outcomes)
  return outcomes
}

/**
 * Lets things happen: one transaction locks, loads, reacts and writes. The one way progress is changed. An event whose
 * id is known already throws AlreadyRecorded.
 */
export async function recordEvents(newEvents: readonly NewEvent[], hooks: RecordHooks = {}): Promise<RecordResult> {
  return await recordAfter(async () => ({ events: newEvents, hooks }))
}

/**
 * As `recordEvents`, where the events are only known after something was found or written in the same transaction:
 * an unknown sender is added together with what they sent.
 */
export async function recordAfter(
  first: (client: PoolClient, later: Deferred) => Promise<{ events: readonly NewEvent[]; hooks: RecordHooks }>,
): Promise<RecordResult> {
  try {
    return await transaction(
      async (client, later) => {
        const { events, hooks } = await first(client, later)
        return await recordInside(client, later, events, hooks)
      },
      { planned: true },
    )
  } catch (error) {
    const known = breaksUnique(error, 'events_pkey') || breaksUnique(error, 'effects_pkey')
    throw known ? new AlreadyRecorded() : error
  }
}

/** The event with this id is in the event log: what follows from it has been done. */
export class AlreadyRecorded extends Error {
  constructor() {
    super('This has been recorded already')
  }
}
