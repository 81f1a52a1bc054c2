import { z } from 'zod'
import { MOST_PRIORITIES, priorityByFilter, priorityByList, queuePrioritySchema } from '#core/queue/priorities'
import { endpoint } from '../endpoint'

const said = {
  inWords: z.string(),
  problem: z.string().nullable().describe('Why it is left out: what it names no longer exists'),
}
const queuePriorities = z.object({
  priorities: z.array(z.discriminatedUnion('type', [priorityByFilter.extend(said), priorityByList.extend(said)])),
})
export type QueuePriorities = z.infer<typeof queuePriorities>

export const getQueuePriorities = endpoint({
  method: 'get',
  path: '/api/queue-priorities',
  summary: 'What the team works before the rest of the queue, in order',
  response: queuePriorities,
})
export const editQueuePriorities = endpoint({
  method: 'put',
  path: '/api/queue-priorities',
  access: 'manager',
  summary: 'Change what the team works before the rest of the queue',
  body: z.object({ priorities: z.array(queuePrioritySchema).max(MOST_PRIORITIES) }),
  response: queuePriorities,
})
