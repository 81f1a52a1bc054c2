import type { TouchKind } from '../enumerations'
import { DAY, type Instant } from '../instant'

/** A knot on the thread: a touch at a time. */
export interface Knot {
  at: Instant
  kind: TouchKind
}

/** A stretch of silence between two knots (or the edges), in shares of the width and of the greatest depth. */
export interface Sag {
  from: number
  to: number
  /** 0 taut, 1 as deep as the drawing goes. */
  depth: number
  days: number
  /** Longer than the touch goal. */
  broken: boolean
}

/**
 * The thread of a relationship from `start` to `now`: where each knot lies (0 to 1) and how far the silence between
 * sags. Depth grows with the days of silence, and reaches the touch goal's line exactly when it is due. Silence
 * that began before `start` sags from the edge, as deep as all its days. Before the first touch there is silence too,
 * from `since` on: when the person was added.
 */
export function thread(
  knots: readonly Knot[],
  start: Instant,
  now: Instant,
  touchGoalDays: number,
  since: Instant | null = null,
): { knots: (Knot & { x: number })[]; sags: Sag[]; touchGoal: number } {
  const span = Math.max(1, now - start)
  const place = (at: Instant) => Math.min(1, Math.max(0, (at - start) / span))
  const shown = knots.filter((knot) => knot.at >= start && knot.at <= now).sort((a, b) => a.at - b.at)
  const touchGoal = 0.45
  const depthOf = (days: number) => Math.min(1, (touchGoal * days) / Math.max(1, touchGoalDays))
  const before = knots.reduce<Instant | null>(
    (latest, knot) => (knot.at < start && (latest === null || knot.at > latest) ? knot.at : latest),
    null,
  )
  const begun = before ?? (since !== null && since < (shown[0]?.at ?? now) ? since : null)
  const edges = [...(begun === null ? [] : [begun]), ...shown.map((knot) => knot.at), now]
  const sags: Sag[] = []
  for (let index = 1; index < edges.length; index++) {
    const days = (edges[index]! - edges[index - 1]!) / DAY
    if (days > 0) {
      sags.push({
        from: place(edges[index - 1]!),
        to: place(edges[index]!),
        depth: depthOf(days),
        days,
        broken: days > touchGoalDays,
      })
    }
  }
  return { knots: shown.map((knot) => ({ ...knot, x: place(knot.at) })), sags, touchGoal }
}
