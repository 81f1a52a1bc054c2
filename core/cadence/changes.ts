import type { Id } from '../instant'
import { stepsFrom, type Route } from './route'
import type { Step } from './steps'

/** What saving a changed cadence means for the people who are at one of its steps. */
export interface StepChange {
  id: Id
  name: string
  people: number
  what: 'deleted' | 'changed'
  /** Of a deleted step: what they go on to; null where they are through. */
  next: string | null
}

/**
 * Whom changed steps concern: those who are at a step that was deleted, who go on to the next one that is left, and
 * those who are at one that says or does something else now. `peopleAt` counts who is at each step of before.
 */
export function whatChanges<S extends Step>(
  before: readonly S[],
  after: readonly S[],
  peopleAt: Readonly<Record<Id, number>>,
): StepChange[] {
  const now = new Map(after.map((step) => [step.id, step]))
  const route: Route = { steps: before }
  return before.flatMap((step): StepChange[] => {
    const people = peopleAt[step.id] ?? 0
    const same = now.get(step.id)
    if (!people || (same && sayTheSame(step, same))) return []
    const about = { id: step.id, name: step.name, people }
    if (same) return [{ ...about, what: 'changed', next: null }]
    const next = stepsFrom(route, step).find(({ id }) => now.has(id))
    return [{ ...about, what: 'deleted', next: next ? now.get(next.id)!.name : null }]
  })
}

/** Whether a step says and does the same, wherever it stands. */
function sayTheSame<S extends Step>(one: S, other: S): boolean {
  const content = ({ position: _, wayId: _way, cadenceId: _cadence, ...rest }: S) => JSON.stringify(rest)
  return content(one) === content(other)
}
