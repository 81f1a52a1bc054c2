import type { CadenceStatus, Scope, StepKind } from '../enumerations'
import type { Id } from '../instant'
import type { Hours } from '../calendar/window'
import type { Wait } from './wait'

/** One step of a cadence, as the engine reads it. */
export interface Step {
  id: Id
  cadenceId: Id
  /** Order within the cadence, from 0; steps that were taken out have been archived and are not here. */
  position: number
  kind: StepKind
  wait: Wait
  /** What the step is called on the Desk. */
  name: string
  /** Whether the step is left out where the one before it was not done. Without effect on the first step. */
  requiresPrevious: boolean
}

/** The step before `step`; null for the first. */
export function stepBefore(cadence: Cadence, step: Step): Step | null {
  return cadence.steps.findLast((other) => other.position < step.position) ?? null
}

/** A cadence, as the engine reads it: steps in order, when its mail may go, whom an exit takes along. */
export interface Cadence {
  id: Id
  name: string
  /** Paused, it takes no steps and sends nothing; people stay where they are. */
  status: CadenceStatus
  /** Whether people who have not asked for it are written to: a cold cadence never goes to a company in a deal. */
  cold: boolean
  /** When mail may go out, by the recipient's wall clock. */
  window: Hours
  exits: { replied: Scope; booked: Scope }
  steps: readonly Step[]
  /**
   * Steps that were deleted, each with the step that followed it then (null after the last), for people who were on it.
   */
  deleted?: Readonly<Record<Id, Id | null>>
}

/** The step to take up next by someone who was on a step that has been deleted; null where none is left. */
export function stepInsteadOf(cadence: Cadence, deletedId: Id): Step | null {
  const seen = new Set<Id>()
  for (let id: Id | null = deletedId; id !== null && !seen.has(id); id = cadence.deleted?.[id] ?? null) {
    seen.add(id)
    const step = cadence.steps.find((one) => one.id === id)
    if (step) return step
  }
  return null
}

/** The step after the one given, or null after the last. */
export function stepAfter(cadence: Cadence, step: Pick<Step, 'id' | 'position'>): Step | null {
  return cadence.steps.find((next) => next.position > step.position && next.id !== step.id) ?? null
}
