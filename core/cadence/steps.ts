import type { Id } from '../instant'
import type { Hours } from '../calendar/window'
import type { Wait } from './wait'

/** The kinds of step a cadence can hold. */
export type StepKind = 'email' | 'call' | 'task'

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
}

/** How far an event that ends a cadence reaches. */
export type ExitScope = 'person' | 'company'

/** A cadence, as the engine reads it: steps in order, when its mail may go, whom an exit takes along. */
export interface Cadence {
  id: Id
  name: string
  state: 'draft' | 'active' | 'archived'
  /** Whether people who have not asked for it are written to: a cold cadence never goes to a company in a deal. */
  cold: boolean
  /** When mail may go out, by the recipient's wall clock. */
  window: Hours
  exits: { replied: ExitScope, booked: ExitScope }
  steps: readonly Step[]
}

/** The step after `stepId`, or null after the last. A step that has been archived since is followed by the next position. */
export function stepAfter(cadence: Cadence, step: Pick<Step, 'id' | 'position'>): Step | null {
  return cadence.steps.find(next => next.position > step.position && next.id !== step.id) ?? null
}

/** What the kind of step is called on screens. */
export const STEP_NAMES: Record<StepKind, string> = { email: 'Email', call: 'Call', task: 'Task' }
