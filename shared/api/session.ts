import { z } from 'zod'
import { DATE_STYLES, DIALERS, ROLES, valuesOf } from '#core/enumerations'
import { endpoint, id, instant, required } from './endpoint'

export const userSchema = z.object({
  id,
  name: z.string(),
  email: z.string(),
  role: z.enum(valuesOf(ROLES)),
  timeZone: z.string(),
})
export type User = z.infer<typeof userSchema>

const meSchema = userSchema.extend({
  mustChangePassword: z.boolean(),
  dateStyle: z.enum(valuesOf(DATE_STYLES)).describe('How they read dates and times'),
  callsWith: z.enum(valuesOf(DIALERS)).describe('How they call'),
  signature: z.string().describe('What ends their emails; empty for none'),
  notifyByEmail: z.boolean().describe('Whether notifications are emailed to them'),
})
export type Me = z.infer<typeof meSchema>

const clockSchema = z.object({
  now: instant,
  /** Whether the clock can be moved (the demo), is standing still, and where it is headed while it moves. */
  movable: z.boolean(),
  frozen: z.boolean(),
  target: instant.nullable(),
})
export type ClockState = z.infer<typeof clockSchema>

export const me = endpoint({
  method: 'get',
  path: '/api/session',
  summary: 'Who is signed in, and the current time',
  access: 'anyone',
  response: z.object({
    /** Work set aside and emails whose delivery is unknown, for managers; 0 for everyone else. */
    problems: z.number(),
    unread: z.number().describe('Notifications that are not read'),
    user: meSchema.nullable(),
    clock: clockSchema,
    team: z.object({
      name: z.string(),
      timeZone: z.string(),
      country: z.string(),
      currency: z.string(),
      callQualities: z.array(z.string()),
    }),
    incomingCalls: z.boolean().describe('Whether calls come in over the exchange'),
    demo: z
      .object({
        mailboxUrl: z.string().nullable(),
        telephonesUrl: z.string().nullable().describe('Where recipients call back'),
        accounts: z.array(z.object({ email: z.string(), name: z.string(), role: z.string(), password: z.string() })),
      })
      .nullable(),
  }),
})
export const signIn = endpoint({
  method: 'post',
  path: '/api/session',
  summary: 'Sign in',
  access: 'anyone',
  body: z.object({
    email: required(254),
    password: z.string().min(1, 'Required').max(200),
    code: z.string().max(20).optional().describe('Of the second factor, where there is one'),
  }),
  response: z.object({ user: meSchema }),
})
export const signOut = endpoint({
  method: 'delete',
  path: '/api/session',
  callers: true,
  summary: 'Sign out here',
})
export const signOutElsewhere = endpoint({
  method: 'delete',
  path: '/api/session/others',
  callers: true,
  summary: 'Sign out everywhere else',
  response: z.object({ ended: z.number() }),
})
export const moveClock = endpoint({
  method: 'post',
  path: '/api/clock',
  summary: 'Move the demo clock forward; everything due until then happens, in order',
  body: z.object({ by: z.enum(['hour', 'day', 'step']) }),
  response: z.object({ target: instant }),
})
export const healthSchema = z.object({
  status: z.enum(['ready', 'degraded', 'down']),
  /** Why it is not ready, in words. */
  reasons: z.array(z.string()),
  database: z.boolean(),
  scheduledActionLagMs: z.number(),
  emailsWaiting: z.number(),
  emailsUnknown: z.number(),
  /** Work that failed three times and waits for a person. */
  setAside: z.number(),
  workers: z.number(),
})
export type Health = z.infer<typeof healthSchema>
export const health = endpoint({
  method: 'get',
  path: '/api/health',
  summary: 'Health: ready, degraded or down, with the reasons',
  access: 'anyone',
  response: healthSchema,
})
export const metrics = endpoint({
  method: 'get',
  path: '/api/metrics',
  summary: 'Metrics in the Prometheus text format',
  access: 'manager',
  response: z.string(),
})
export const openapi = endpoint({
  method: 'get',
  path: '/api/openapi.json',
  summary: 'This document',
  access: 'anyone',
  response: z.record(z.string(), z.unknown()),
})

/** What the stream of changes is about: the user's notifications, queue and call, calls that come in, a prospect. */
export type ChangeTopic = 'notifications' | 'queue' | 'line' | 'calls' | 'prospect'
export const userChanges = endpoint({
  method: 'get',
  path: '/api/changes',
  callers: true,
  summary: 'Server-sent events: a number at the start and whenever something changed, with what it was',
  response: z.unknown().describe('text/event-stream'),
})
