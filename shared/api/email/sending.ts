import { z } from 'zod'
import { QUEUE_REASONS, WINDOW_CLOCKS, WINDOW_HOLIDAYS, valuesOf } from '#core/enumerations'
import { endpoint, id, instant, required, withId } from '../endpoint'

const windowContent = {
  name: required(60),
  days: z
    .array(z.number().int().min(1).max(7))
    .min(1, 'Choose at least one day')
    .transform((days) => [...new Set(days)].sort())
    .describe('ISO weekdays, 1 for Monday'),
  from: z.number().int().min(0).max(1439).describe('Minutes after midnight'),
  to: z.number().int().min(1).max(1440),
  clock: z.enum(valuesOf(WINDOW_CLOCKS)).describe('By whose clock it opens and closes'),
  holidays: z.enum(valuesOf(WINDOW_HOLIDAYS)).describe('On whose holidays it stays closed'),
}
const windowBody = z
  .object(windowContent)
  .refine(({ from, to }) => from < to, { path: ['to'], message: 'The window must end after it starts' })
const sendingWindow = z.object({
  id,
  version: z.number(),
  isDefault: z.boolean().describe('Whether cadences that name none use it'),
  cadences: z.array(z.object({ id, name: z.string() })),
  ...windowContent,
  days: z.array(z.number()),
})
export type SendingWindow = z.infer<typeof sendingWindow>

export const listSendingWindows = endpoint({
  method: 'get',
  path: '/api/sending-windows',
  summary: 'Sending windows, and the cadences that use each',
  response: z.object({ windows: z.array(sendingWindow) }),
})
export const addSendingWindow = endpoint({
  method: 'post',
  path: '/api/sending-windows',
  summary: 'Add a sending window',
  access: 'manager',
  body: windowBody,
  response: z.object({ id }),
})
export const editSendingWindow = endpoint({
  method: 'put',
  path: '/api/sending-windows/{id}',
  summary: 'Change a sending window for all cadences that use it; emails that wait for it are looked at again',
  access: 'manager',
  params: withId,
  body: windowBody.safeExtend({ version: z.number().int(), isDefault: z.boolean().default(false) }),
  response: z.object({ version: z.number() }),
})
export const removeSendingWindow = endpoint({
  method: 'delete',
  path: '/api/sending-windows/{id}',
  summary: 'Delete a sending window that no cadence uses',
  access: 'manager',
  params: withId,
})

const senderSettings = {
  cap: z.number().int('Whole numbers only').min(0, 'Enter 0 or more').max(100_000).describe('Emails a day'),
  spacing: z
    .number()
    .int('Whole numbers only')
    .min(0, 'Enter 0 or more')
    .max(86_400)
    .describe('The least seconds between two emails'),
  jitter: z
    .number()
    .int('Whole numbers only')
    .min(0, 'Enter 0 or more')
    .max(200, 'At most 200')
    .describe('By how many percent a pause may be longer, by chance'),
  domainCap: z.number().int('Whole numbers only').min(1, 'Enter 1 or more').max(100_000).nullable(),
  ramp: z
    .object({
      first: z.number().int('Whole numbers only').min(1, 'Enter 1 or more').max(100_000),
      more: z.number().int('Whole numbers only').min(1, 'Enter 1 or more').max(100_000),
    })
    .nullable()
    .describe('A slow start: emails on the first day of sending, and how many more on each day after'),
}
const sender = z.object({
  id,
  name: z.string(),
  email: z.string(),
  signature: z.string(),
  ...senderSettings,
  daysSent: z.number().describe('Days with email since the slow start began'),
  capToday: z.number(),
  sentToday: z.number().describe('Emails given a time today'),
  waiting: z.number().describe('Emails in the queue'),
})
export type EmailSender = z.infer<typeof sender>

export const listSenders = endpoint({
  method: 'get',
  path: '/api/senders',
  summary: 'How email of each user is sent, and what they have used today; a rep gets their own',
  response: z.object({ senders: z.array(sender) }),
})
export const editSender = endpoint({
  method: 'put',
  path: '/api/senders/{id}',
  summary: 'Change how a user’s email is sent; a slow start that is turned on begins anew',
  access: 'manager',
  params: withId,
  body: z.object(senderSettings),
})

export const listEmailQueue = endpoint({
  method: 'get',
  path: '/api/email-queue',
  summary: 'Emails that wait, in the order in which they leave, each with when and why; a rep gets their own',
  query: z.object({
    senderId: id.optional(),
    cadenceId: id.optional(),
    why: z.enum(valuesOf(QUEUE_REASONS)).optional(),
    limit: z.coerce.number().int().min(1).max(1_000).default(100),
  }),
  response: z.object({
    now: instant,
    total: z.number(),
    reasons: z.partialRecord(z.enum(valuesOf(QUEUE_REASONS)), z.number()),
    emails: z.array(
      z.object({
        id,
        kind: z.enum(['email', 'task']).describe('task: a to-do to review and send it'),
        prospect: z.object({ id, name: z.string(), company: z.string().nullable() }),
        sender: z.object({ id, name: z.string() }).nullable(),
        cadence: z.object({ id, name: z.string() }).nullable(),
        subject: z.string(),
        why: z.enum(valuesOf(QUEUE_REASONS)).nullable().describe('null: it leaves now'),
        at: instant.nullable().describe('When it will leave as the queue stands; null where that is not known'),
      }),
    ),
  }),
})
export const cancelEmails = endpoint({
  method: 'post',
  path: '/api/email-queue/cancel',
  summary: 'Cancel emails that wait; their cadences go on without them',
  body: z.object({ messageIds: z.array(id).min(1, 'Choose at least one').max(1_000) }),
  response: z.object({ cancelled: z.number(), left: z.number().describe('Those that had left, or are not yours') }),
})
