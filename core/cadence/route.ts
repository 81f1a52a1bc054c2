import type { Id } from '../instant'
import type { Step, Way } from './steps'

/**
 * The order of a cadence’s steps. The main way is the steps without a `wayId`, by their position; a branch has ways
 * with steps of their own, behind which one goes on behind the branch, or is through. Nobody else compares positions.
 */
export interface Route {
  readonly steps: readonly Step[]
}

/** The first step; null where there is none. */
export function firstStep(route: Route): Step | null {
  return firstOf(route, null)
}

function firstOf({ steps }: Route, wayId: Id | null): Step | null {
  return steps.find((step) => step.wayId === wayId) ?? null
}

/** The branch that a way belongs to, and the way; null for the main way, and one that is not there any more. */
function branchOf({ steps }: Route, wayId: Id | null): { branch: Step; way: Way } | null {
  if (wayId === null) return null
  for (const branch of steps) {
    const way = branch.ways.find((one) => one.id === wayId)
    if (way) return { branch, way }
  }
  return null
}

/** The step behind `step`; behind a branch, that of the way taken (`way`). Null where the cadence is through. */
export function nextStep(route: Route, step: Step, way: Way | null = null): Step | null {
  if (way) {
    const first = firstOf(route, way.id)
    if (first || way.ends) return first
  }
  const next = route.steps.find((one) => one.wayId === step.wayId && one.position > step.position)
  if (next) return next
  const outer = branchOf(route, step.wayId)
  return !outer || outer.way.ends ? null : nextStep(route, outer.branch)
}

/** The step that was done before `step` on the way to it, branches left out; null for the first. */
export function stepBefore(route: Route, step: Step): Step | null {
  const before = route.steps.findLast((one) => one.wayId === step.wayId && one.position < step.position)
  const outer = before ? null : branchOf(route, step.wayId)
  const found = before ?? outer?.branch ?? null
  return found?.kind === 'branch' ? stepBefore(route, found) : found
}

/** The way for everyone whom no other fits. */
export function otherwise(branch: Pick<Step, 'ways'>): Way | null {
  return branch.ways.at(-1) ?? null
}

/** The steps from one on, in the order they are taken where `choose` says which way is taken at a branch. */
export function stepsFrom(route: Route, from: Step, choose: (branch: Step) => Way | null = otherwise): Step[] {
  const taken: Step[] = []
  for (let step: Step | null = from; step; step = nextStep(route, step, step.kind === 'branch' ? choose(step) : null)) {
    taken.push(step)
  }
  return taken
}

/** The steps that lead to one, itself among them: the main way to the branch, then the way it is on. */
export function stepsTo(route: Route, step: Step): Step[] {
  const outer = branchOf(route, step.wayId)
  const here = route.steps.filter((one) => one.wayId === step.wayId && one.position <= step.position)
  return [...(outer ? stepsTo(route, outer.branch) : []), ...here]
}

/** How deep a step lies in branches, 0 on the main way. */
function depthOf(route: Route, step: Pick<Step, 'wayId'>): number {
  const outer = branchOf(route, step.wayId)
  return outer ? 1 + depthOf(route, outer.branch) : 0
}

/** Branches within branches, at most. */
const DEEPEST = 3

/**
 * What is wrong with the order of steps as someone has drawn them, each with the index of the step: a way that belongs
 * to no branch, a branch without a way for all others, ways that cannot be taken, branches that lie too deep.
 */
export function routeFaults(steps: readonly Step[]): { index: number; field: string; message: string }[] {
  const route = { steps }
  const seen = new Set<Id>()
  return steps.flatMap((step, index) => {
    const at = (field: string, message: string) => [{ index, field, message }]
    if (step.kind !== 'branch' && step.ways.length) return at('ways', 'Only a branch has ways')
    if (step.wayId !== null) {
      const outer = branchOf(route, step.wayId)
      if (!outer) return at('wayId', 'This step belongs to a way that is not there')
      if (steps.indexOf(outer.branch) >= index) return at('wayId', 'A way must come after its branch')
    }
    if (step.kind !== 'branch') return []
    if (depthOf(route, step) >= DEEPEST) return at('ways', `At most ${DEEPEST} branches within each other`)
    if (step.ways.length < 2) return at('ways', 'A branch needs two ways')
    if (otherwise(step)!.when !== null) return at('ways', 'A branch needs a last way for everyone else')
    const blind = step.ways.findIndex((way, place) => way.when === null && place < step.ways.length - 1)
    if (blind >= 0) return at(`ways.${blind + 1}`, 'Nobody gets here: the way before it takes everyone')
    const twice = step.ways.find((way) => seen.has(way.id) || !seen.add(way.id))
    return twice ? at('ways', 'Two ways have the same id') : []
  })
}
