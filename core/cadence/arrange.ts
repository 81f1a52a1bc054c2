import type { Id } from '../instant'

/** A step as far as its place goes. */
interface Placed {
  id: Id
  wayId: Id | null
  ways: readonly { id: Id }[]
}

/** A line of a list of steps: a step, the heading of a way, or where the ways of a branch are over. */
export type StepRow<S extends Placed> =
  | { type: 'step'; key: string; step: S; depth: number }
  | { type: 'way'; key: string; branch: S; way: S['ways'][number]; depth: number }
  | { type: 'join'; key: string; branch: S; depth: number }

/** Steps as they are read: each branch is followed by its ways with their steps, then comes what is behind it. */
export function rowsOf<S extends Placed>(steps: readonly S[], wayId: Id | null = null, depth = 0): StepRow<S>[] {
  return steps
    .filter((step) => step.wayId === wayId)
    .flatMap((step): StepRow<S>[] => [
      { type: 'step', key: step.id, step, depth },
      ...step.ways.flatMap((way): StepRow<S>[] => [
        { type: 'way', key: way.id, branch: step, way, depth: depth + 1 },
        ...rowsOf(steps, way.id, depth + 2),
      ]),
      ...(step.ways.length ? [{ type: 'join' as const, key: `join-${step.id}`, branch: step, depth: depth + 1 }] : []),
    ])
}

/** The steps of such a list after lines were moved: each belongs to the way whose heading it stands under. */
export function stepsOfRows<S extends Placed>(rows: readonly StepRow<S>[]): S[] {
  let wayId: Id | null = null
  const outer = new Map<Id, Id | null>()
  return rows.flatMap((row) => {
    if (row.type === 'way') wayId = row.way.id
    else if (row.type === 'join') wayId = outer.get(row.branch.id) ?? null
    else {
      outer.set(row.step.id, wayId)
      return [row.step.wayId === wayId ? row.step : { ...row.step, wayId }]
    }
    return []
  })
}

/** A step with everything that lies within it, as it is read. */
export function blockOf<S extends Placed>(steps: readonly S[], step: S): S[] {
  return [
    step,
    ...step.ways.flatMap((way) => steps.filter((one) => one.wayId === way.id).flatMap((one) => blockOf(steps, one))),
  ]
}

/** The steps with a new one behind another, on the same way; at the end of a way, or of the main way, without one. */
export function withStep<S extends Placed>(
  steps: readonly S[],
  made: S,
  behind: { stepId: Id } | { wayId: Id | null },
): S[] {
  return withInserted(steps, (wayId) => [{ ...made, wayId }], behind)
}

/** A step, or all from it to the end of its way, with everything that lies within them: what is copied. */
export function stretchFrom<S extends Placed>(steps: readonly S[], from: S, toEnd: boolean): S[] {
  const mates = steps.filter((one) => one.wayId === from.wayId)
  const picked = toEnd ? mates.slice(mates.indexOf(from)) : [from]
  return picked.flatMap((step) => blockOf(steps, step))
}

/** Copies of steps under new ids; those that lie in no way of another copy go on the way that is named. */
export function withFreshIds<S extends Omit<Placed, 'id'>>(
  steps: readonly S[],
  wayId: Id | null,
  newId: () => Id,
): (S & { id: Id })[] {
  const ids = new Map(steps.flatMap(({ ways }) => ways.map(({ id }) => [id, newId()] as const)))
  return steps.map((one) => ({
    ...one,
    id: newId(),
    wayId: ids.get(one.wayId ?? '') ?? wayId,
    ways: one.ways.map((way) => ({ ...way, id: ids.get(way.id)! })),
  }))
}

/** The steps with copies of others behind a step, or at the end of a way (see `withStep`). */
export function withCopies<S extends Placed>(
  steps: readonly S[],
  copied: readonly S[],
  behind: { stepId: Id } | { wayId: Id | null },
  newId: () => Id,
): S[] {
  return withInserted(steps, (wayId) => withFreshIds(copied, wayId, newId), behind)
}

function withInserted<S extends Placed>(
  steps: readonly S[],
  made: (wayId: Id | null) => readonly S[],
  behind: { stepId: Id } | { wayId: Id | null },
): S[] {
  const before = 'stepId' in behind ? steps.find((one) => one.id === behind.stepId) : undefined
  const wayId = 'wayId' in behind ? behind.wayId : (before?.wayId ?? null)
  const at = before ? steps.indexOf(blockOf(steps, before).at(-1)!) + 1 : steps.length
  return inReadingOrder([...steps.slice(0, at), ...made(wayId), ...steps.slice(at)])
}

/** The steps without one and what lies within it. */
export function withoutStep<S extends Placed>(steps: readonly S[], step: S): S[] {
  const block = new Set(blockOf(steps, step))
  return steps.filter((one) => !block.has(one))
}

/** The steps with one moved past its neighbor on the same way, with what lies within it; at either end it stays. */
export function withMoved<S extends Placed>(steps: readonly S[], step: S, by: -1 | 1): S[] {
  const mates = steps.filter((one) => one.wayId === step.wayId)
  const other = mates[mates.indexOf(step) + by]
  if (!other) return [...steps]
  const swapped = new Map([
    [step, other],
    [other, step],
  ])
  return inReadingOrder(steps.map((one) => swapped.get(one) ?? one))
}

/** Which way a step is on is said by the step; the order is by what comes first on each way. */
export function inReadingOrder<S extends Placed>(steps: readonly S[]): S[] {
  return rowsOf(steps).flatMap((row) => (row.type === 'step' ? [row.step] : []))
}
