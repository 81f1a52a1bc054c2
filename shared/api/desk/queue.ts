import { z } from 'zod'
import { QUEUE_CHANNELS, QUEUE_SORTS, TASK_KINDS, valuesOf } from '#core/enumerations'
import { QUEUE_GROUPS } from '#core/queue/groupNames'
import { endpoint, id, instant, timeZone } from '../endpoint'

export const queueItemSchema = z.object({
  /** The task in hand; null for someone who is on the list that is worked and has none. */
  taskId: id.nullable(),
  prospectId: id,
  name: z.string(),
  company: z.string().nullable(),
  kind: z.enum(valuesOf(TASK_KINDS)),
  group: z.enum(QUEUE_GROUPS),
  why: z.string(),
  /** The team's priority that puts it first, in words; null where none does. */
  priority: z.string().nullable(),
  dueAt: instant,
  timeZone: z.string(),
  /** Of what waits: from when on it can be done, null for never, and the holiday that keeps it back, if one does. */
  opensAt: instant.nullable(),
  waitsFor: z.string().nullable(),
  /** Of someone in a call block: the number that is called. */
  phoneId: id.nullable().default(null),
  /** Where the person is on the climb: steps done and steps in all; null outside a cadence. */
  slope: z.object({ step: z.number(), steps: z.number() }).nullable(),
})
export type QueueItem = z.infer<typeof queueItemSchema>

/** The queue of a Desk, of a list or of a call block. */
export const queueAnswer = z.object({
  list: z.object({ id, name: z.string() }).nullable(),
  /** The call block that is worked, how far it is, and the caller's own time in it. */
  block: z
    .object({
      id,
      name: z.string(),
      inWords: z.string(),
      open: z.number(),
      notReached: z.number().describe('Who can be called in a next pass'),
      pass: z.number(),
      closed: z.boolean(),
      paused: z.boolean(),
      lines: z.number().describe('How many lines are dialed for each caller at most'),
      seconds: z.number(),
      mine: z.object({ calls: z.number(), conversations: z.number(), meetings: z.number() }),
    })
    .nullable()
    .default(null),
  items: z.array(queueItemSchema),
  counts: z.record(z.enum(QUEUE_GROUPS), z.number()).describe('By group; what a priority puts first is counted there'),
  /** The team's priorities that put something first, in order, each in words. */
  priorities: z.array(z.object({ label: z.string(), count: z.number() })),
  /** Open call blocks in which the rep has people to call. */
  blocks: z.array(z.object({ id, name: z.string(), dueOn: z.string().nullable() })).default([]),
  /** Where the rep has more overdue than the team allows: then nobody new is assigned to them. */
  overdue: z.object({ count: z.number(), most: z.number() }).nullable().default(null),
  opensNext: z.object({ at: instant, count: z.number() }).nullable(),
  now: instant,
})
const ridgeMoment = z.coerce.number().pipe(instant).optional()
export const queue = endpoint({
  method: 'get',
  path: '/api/desk/queue',
  callers: true,
  summary: 'What to do now, in order, with the reason for each',
  query: z.object({
    limit: z.coerce.number().int().min(1).max(200).default(50),
    list: id.optional(),
    sort: z.enum(valuesOf(QUEUE_SORTS)).default('recommended'),
    channel: z.enum(valuesOf(QUEUE_CHANNELS)).optional(),
    cadenceId: id.optional(),
    listId: id.optional().describe('Only who is on this list; unlike `list`, in the order of the queue'),
    timeZone: timeZone.optional(),
    from: ridgeMoment.describe('With `to`: a stretch of the day; what is due by its end and can be done in it'),
    to: ridgeMoment,
  }),
  response: queueAnswer,
})
export const queueChoices = endpoint({
  method: 'get',
  path: '/api/desk/choices',
  callers: true,
  summary:
    'What the queue can be narrowed to: channels, cadences and time zones, with how much there is of each; lists',
  response: z.object({
    channels: z.array(z.object({ channel: z.enum(valuesOf(QUEUE_CHANNELS)), count: z.number() })),
    cadences: z.array(z.object({ id, name: z.string(), count: z.number() })),
    lists: z.array(z.object({ id, name: z.string() })),
    timeZones: z.array(z.object({ timeZone: z.string(), count: z.number() })),
  }),
})
export const dayRidge = endpoint({
  method: 'get',
  path: '/api/desk/day',
  callers: true,
  summary: 'The day by half hours: who is due and callable, what was done, the goals',
  response: z.object({
    slots: z.array(z.object({ at: instant, open: z.number(), done: z.number() })),
    meetings: z.array(z.object({ at: instant, title: z.string() })),
    goals: z.object({
      calls: z.tuple([z.number(), z.number()]),
      conversations: z.tuple([z.number(), z.number()]),
      meetings: z.tuple([z.number(), z.number()]),
    }),
    callableNow: z.number(),
  }),
})
