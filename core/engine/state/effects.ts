import type { CauseValues, Rule } from './causes'
import type { Id } from '../../instant'
import type { Entities, EntityName, EngineState } from './engineState'

/** What effects mean, for explanations, each with the rows it is about; the change is in `before` and `after`. */
interface EffectRows {
  openEnrollment: 'enrollment'
  moveEnrollment: 'enrollment'
  pauseEnrollment: 'enrollment'
  endEnrollment: 'enrollment'
  skipStep: 'enrollment'
  createTask: 'task'
  finishTask: 'task'
  cancelTask: 'task'
  moveTask: 'task'
  queueEmail: 'emailMessage'
  cancelEmail: 'emailMessage'
  settleEmail: 'emailMessage'
  openEmail: 'emailMessage'
  clickEmail: 'emailMessage'
  setTextConsent: 'phone'
  markNumber: 'phone'
  markEmail: 'emailAddress'
  recordTouch: 'touch'
  moveStage: 'prospect'
  setStop: 'prospect'
  setProspectStatus: 'prospect'
  rate: 'prospect'
  addPerson: 'prospect'
  addContact: 'emailAddress' | 'phone'
  assign: 'prospect' | 'task'
  takeTurn: 'turn'
  setCompanyStatus: 'company'
  bookMeeting: 'meeting'
  moveMeeting: 'meeting'
  cancelMeeting: 'meeting'
  settleMeeting: 'meeting'
  openDeal: 'deal'
  changeDeal: 'deal'
  closeDeal: 'deal'
  scheduleAction: 'delayedAction'
  cancelAction: 'delayedAction'
  finishAction: 'delayedAction'
  skipAction: 'delayedAction'
  addTag: 'prospectTag'
  removeTag: 'prospectTag'
  joinList: 'listMember'
  leaveList: 'listMember'
  setField: 'customValue'
  notify: 'notification'
}
export type EffectKind = keyof EffectRows
/** The rows that effects of a kind are about. */
export type RowsOf<K extends EffectKind> = EffectRows[K]

/** Why the system did it: the outcome, step, cadence setting, form or rule, by id where it has one. */
export interface Cause {
  source: 'outcome' | 'step' | 'cadence' | 'form' | 'system_rule' | 'person' | 'undo'
  id?: Id
  /** The rule or setting by which it was done, and the values of its sentence. */
  rule?: Rule
  values?: CauseValues
  /** What someone wrote, or was found at that moment, in words: it stands beside the log and not in it. */
  said?: string
}

interface Change<K extends EffectKind, E extends EntityName> {
  kind: K
  entity: E
  id: Id
  before: Partial<Entities[E]> | null
  after: Partial<Entities[E]> | null
  cause: Cause
}
/** An effect for each of the entities that its kind may be about. */
type ChangeOf<K extends EffectKind, E extends EntityName = RowsOf<K>> = E extends EntityName ? Change<K, E> : never

/**
 * One change of one row. `before` null: the row is new; `after` null: it goes. Otherwise both hold the same
 * fields, `before` being the values that are expected to be found there.
 */
export type Effect = { [K in EffectKind]: ChangeOf<K> }[EffectKind]
/** The effects of a kind. */
export type EffectOf<K extends EffectKind> = Extract<Effect, { kind: K }>

/** The effect that takes `effect` back. */
export function inverse(effect: Effect): Effect {
  return { ...effect, before: effect.after, after: effect.before, cause: { source: 'undo' } } as Effect
}

/** The state after the effects, in order. Pure: the given state is left as it was. */
export function evolve(state: EngineState, effects: readonly Effect[]): EngineState {
  const next: Record<string, unknown> = { ...state }
  const copied = new Set<EntityName>()
  for (const effect of effects) {
    if (!copied.has(effect.entity)) {
      next[effect.entity] = { ...state[effect.entity] }
      copied.add(effect.entity)
    }
    const rows = next[effect.entity] as Record<Id, object>
    if (effect.after === null) delete rows[effect.id]
    else rows[effect.id] = { ...rows[effect.id], ...effect.after }
  }
  return next as unknown as EngineState
}

/**
 * What the effects amount to, without the parts that differ from one computation to the next (new ids, the exact
 * minute, who of several is next in turn): equal for two computations exactly when they would do the same to the same
 * rows. Hashed, it is the fingerprint that a preview hands out and logging hands back.
 */
export function signature(effects: readonly Effect[]): string {
  const fresh = new Map<Id, string>()
  for (const effect of effects) {
    // Who is next in turn may be someone else by then.
    if (effect.entity === 'turn') fresh.set(effect.id, 'next')
    else if (effect.before === null) fresh.set(effect.id, `new${fresh.size}`)
  }
  const value = (key: string, raw: unknown) => {
    if ((key === 'at' || key.endsWith('At')) && raw !== null) return 'time'
    return typeof raw === 'string' ? (fresh.get(raw) ?? raw) : raw
  }
  return JSON.stringify(
    effects.map((effect) => [
      effect.kind,
      effect.entity,
      fresh.get(effect.id) ?? effect.id,
      effect.entity !== 'turn' &&
        effect.after &&
        Object.entries(effect.after)
          .sort(([a], [b]) => (a < b ? -1 : 1))
          .map(([key, raw]) => [key, value(key, raw)]),
    ]),
  )
}
