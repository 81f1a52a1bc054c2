import type { Id, Instant } from '../../instant'
import type { Cause, Effect, EffectKind, RowsOf } from './effects'
import type { DomainEvent, Problem } from './events'
import type { Playbook } from './playbook'
import { dropRow, putRow, type Entities, type EntityName, type Rows, type EngineState } from './engineState'

/**
 * The work sheet of one reaction: effects as they are decided, and the state as it stands after them, so that
 * a later action sees what an earlier one did. Lives inside one call of `react` and never leaves it.
 */
export class ReactionContext {
  readonly effects: Effect[] = []
  readonly problems: Problem[] = []
  /** What an action would have done and did not, and why, each as a sentence. */
  readonly skipped: string[] = []
  private readonly copied = new Set<EntityName>()
  private readonly world: Record<string, unknown>

  /** The state given is left as it was, unless it is `own`: then it is moved on in place. */
  constructor(
    state: EngineState,
    readonly playbook: Playbook,
    readonly event: DomainEvent,
    readonly newId: () => Id,
    private readonly own = false,
  ) {
    this.world = own ? (state as unknown as Record<string, unknown>) : { ...state }
  }

  /** The state after the effects so far. */
  get state(): EngineState {
    return this.world as unknown as EngineState
  }

  get now(): Instant {
    return this.event.at
  }

  /** Adds a row. */
  create<K extends EffectKind, E extends RowsOf<K>>(kind: K, entity: E, row: Entities[E], cause: Cause): Entities[E] {
    putRow(this.rows(entity), row)
    this.effects.push({ kind, entity, id: row.id, before: null, after: row, cause } as unknown as Effect)
    return row
  }

  /**
   * Changes fields of a row; fields that already have the value are left out, and nothing is recorded if none is left.
   */
  change<K extends EffectKind, E extends RowsOf<K>>(
    kind: K,
    entity: E,
    id: Id,
    patch: Partial<Entities[E]>,
    cause: Cause,
  ): void {
    const row = this.rows(entity)[id]
    if (!row) throw new Error(`The state holds no ${entity} ${id}`)
    const before: Partial<Entities[E]> = {}
    const after: Partial<Entities[E]> = {}
    for (const key of Object.keys(patch) as (keyof Entities[E])[]) {
      if (row[key] !== patch[key]) {
        before[key] = row[key]
        after[key] = patch[key]
      }
    }
    if (Object.keys(after).length === 0) return
    putRow(this.rows(entity), { ...row, ...after })
    this.effects.push({ kind, entity, id, before, after, cause } as unknown as Effect)
  }

  /** Removes a row. */
  remove<K extends EffectKind, E extends RowsOf<K>>(kind: K, entity: E, id: Id, cause: Cause): void {
    const row = this.rows(entity)[id]
    if (!row) return
    dropRow(this.rows(entity), id)
    this.effects.push({ kind, entity, id, before: row, after: null, cause } as unknown as Effect)
  }

  /** Notes that an action is not done, and why; the rest of the reaction is. */
  skip(sentence: string): void {
    if (!this.skipped.includes(sentence)) this.skipped.push(sentence)
  }

  /** Notes what stands in the way; a reaction with problems does nothing. */
  refuse(field: string, message: string): void {
    this.problems.push({ field, message })
  }

  /** Takes effects back, the last first: those from a place on, or all. */
  takeBack(from = 0): void {
    for (const effect of this.effects.splice(from).reverse()) {
      const rows = this.rows(effect.entity)
      if (effect.before === null) dropRow(rows, effect.id)
      else if (effect.after === null) putRow(rows, effect.before as Entities[EntityName])
      else putRow(rows, { ...rows[effect.id]!, ...effect.before } as Entities[EntityName])
    }
  }

  private rows<E extends EntityName>(entity: E): Record<Id, Entities[E]> {
    if (!this.own && !this.copied.has(entity)) {
      this.world[entity] = { ...(this.world[entity] as Rows<E>) }
      this.copied.add(entity)
    }
    return this.world[entity] as Record<Id, Entities[E]>
  }
}
