/** The groups of the Desk's queue, in the order they are worked. */
export const QUEUE_GROUPS = ['promised', 'answer', 'overdue_reached', 'overdue', 'due', 'soon', 'new', 'later'] as const
export type QueueGroup = (typeof QUEUE_GROUPS)[number]

/** How many are in each group, of a queue in which nobody is. */
export const emptyCounts = (): Record<QueueGroup, number> => ({
  promised: 0,
  answer: 0,
  overdue_reached: 0,
  overdue: 0,
  due: 0,
  soon: 0,
  new: 0,
  later: 0,
})

/** Whether work of the group is not to be done yet. */
export const isWaiting = (group: QueueGroup): boolean => group === 'soon' || group === 'later'
