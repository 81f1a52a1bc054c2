import { z } from 'zod'
import { NOTIFICATION_KINDS, valuesOf } from '#core/enumerations'
import { endpoint, id, instant } from './endpoint'

const notificationSchema = z.object({
  ids: z.array(id).describe('Of all that it stands for: emails that could not be sent are one a day'),
  kind: z.enum(valuesOf(NOTIFICATION_KINDS)),
  sentence: z.string(),
  to: z.string().nullable().describe('The path of the screen it leads to'),
  at: instant,
  read: z.boolean(),
})
export type Notification = z.infer<typeof notificationSchema>

export const listNotifications = endpoint({
  method: 'get',
  path: '/api/notifications',
  callers: true,
  summary: 'Your notifications, newest first',
  query: z.object({
    before: z
      .string()
      .regex(/^\d+_\d+$/)
      .optional()
      .describe('The `next` of the page before'),
  }),
  response: z.object({ notifications: z.array(notificationSchema), next: z.string().nullable() }),
})
export const markNotifications = endpoint({
  method: 'post',
  path: '/api/notifications/read',
  callers: true,
  summary: 'Mark notifications as read or unread: those named, or all',
  body: z.object({ ids: z.array(id).max(1000).nullable(), read: z.boolean().default(true) }),
})
