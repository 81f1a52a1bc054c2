import type { CadenceStatus, EmailType, StepKind } from '../enumerations'
import type { Id } from '../instant'
import type { SendingWindow } from '../calendar/sendingWindow'
import type { EntryRules } from './entry'
import type { Exits } from './exits'
import type { WayCondition } from './ways'
import type { Wait } from './wait'

/** One way on from a branch; its steps name it by `wayId`. */
export interface Way {
  id: Id
  name: string
  /** Who takes it; null for everyone whom no way before it fits. */
  when: WayCondition | null
  /** Whether the cadence ends behind its last step, instead of going on behind the branch. */
  ends: boolean
}

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
  /** Of an email: whether it waits on the Desk until its rep has looked at it and sends it. */
  review: boolean
  /** The way it belongs to; null on the main way. */
  wayId: Id | null
  /** Of a branch: its ways, in the order they are tried; the last one is for all others. Empty for other steps. */
  ways: readonly Way[]
  /** Of a branch: whether its wait ends as soon as something happens that one of its ways is about. */
  endsEarly: boolean
}

/** A cadence, as the engine reads it: steps in order, when its email may go, who may enter it, what ends it. */
export interface Cadence {
  id: Id
  name: string
  /** Paused, it takes no steps and sends nothing; people stay where they are. */
  status: CadenceStatus
  /** Whether people who have not asked for it are written to: a cold cadence never goes to a company in a deal. */
  cold: boolean
  /** The type of its emails; none: one to one where it is cold, otherwise requested. */
  emailType?: EmailType | null
  /** When its email may go out. */
  window: SendingWindow
  /** What ends it before its last step. */
  exits: Exits
  /** Who may enter it. */
  entry: EntryRules
  steps: readonly Step[]
  /**
   * Steps that were deleted, each with the step that followed it then (null after the last), for people who were on it.
   */
  deleted?: Readonly<Record<Id, Id | null>>
  /** The steps of earlier versions, which people who were under way finish. */
  earlier?: readonly (readonly Step[])[]
}

/** A cadence with the steps of the version that a step belongs to: an earlier one, or as it is now. */
export function versionAt(cadence: Cadence, stepId: Id): Cadence {
  const has = (steps: readonly Step[]) => steps.some(({ id }) => id === stepId)
  const steps = has(cadence.steps) ? undefined : cadence.earlier?.find(has)
  return steps ? { ...cadence, steps } : cadence
}

/**
 * The step of this version that another one stands for: itself, or in an earlier version the one whose place it took,
 * over any number of versions. null where there is none.
 */
export function stepHere({ steps, deleted = {} }: Pick<Cadence, 'steps' | 'deleted'>, stepId: Id): Step | null {
  const leadsThere = (from: Id) => {
    const seen = new Set<Id>()
    for (let id: Id | null = from; id !== null && !seen.has(id); id = deleted[id] ?? null) {
      if (id === stepId) return true
      seen.add(id)
    }
    return false
  }
  // A step that was deleted leads to the one behind it, too: of several, the last is the one that was replaced.
  return steps.find(({ id }) => id === stepId) ?? steps.findLast(({ id }) => leadsThere(id)) ?? null
}

/** All steps of cadences, those of earlier versions among them. */
export function everyStep(cadences: Iterable<Pick<Cadence, 'steps' | 'earlier'>>): Step[] {
  return [...cadences].flatMap(({ steps, earlier = [] }) => [steps, ...earlier].flat())
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

/** The type of a cadence's emails: where it says none, cold ones are written to one person, the others requested. */
export function emailTypeOf({ cold, emailType }: Pick<Cadence, 'cold' | 'emailType'>): EmailType {
  return emailType ?? (cold ? 'one_to_one' : 'requested')
}
