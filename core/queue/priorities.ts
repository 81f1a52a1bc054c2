import { z } from 'zod'
import { filterSchema, type Filter } from '../filter/filter'
import type { Id } from '../instant'

/** What a team works before the rest of the queue: who fits a filter, or a list in the list's own order. */
export type QueuePriority = { type: 'filter'; filter: Filter } | { type: 'list'; listId: Id }

export const priorityByFilter = z.object({ type: z.literal('filter'), filter: filterSchema })
export const priorityByList = z.object({ type: z.literal('list'), listId: z.uuid() })
export const queuePrioritySchema = z.discriminatedUnion('type', [priorityByFilter, priorityByList])

/** At most so many: what is all first is not first. */
export const MOST_PRIORITIES = 8

/** Where someone stands by the team's priorities: the first that fits, counted from 0, and the place in it. */
export interface PriorityPlace {
  index: number
  /** The place within a list that is worked in its order; null where the priority is a filter. */
  place: number | null
}

/**
 * The order of two pieces of work by priorities, as a comparison: a lower priority first, within a list its order, and
 * who has none behind all of them; 0 where priorities do not decide.
 */
export function byPriority(a: PriorityPlace | undefined, b: PriorityPlace | undefined): number {
  if (!a || !b) return Number(!a) - Number(!b)
  return a.index - b.index || (a.place ?? 0) - (b.place ?? 0)
}
