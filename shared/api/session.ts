import { z } from 'zod'
import { endpoint, id, instant, required } from './endpoint'

export const userSchema = z.object({ id, name: z.string(), email: z.string(), role: z.enum(['rep', 'manager', 'admin']), zone: z.string() })
export type User = z.infer<typeof userSchema>

const clockSchema = z.object({
  now: instant,
  /** Whether the clock can be moved (the demo), is standing still, and where it is headed while it moves. */
  movable: z.boolean(), frozen: z.boolean(), target: instant.nullable(),
})
export type ClockState = z.infer<typeof clockSchema>

export const me = endpoint({
  method: 'get', path: '/api/session', summary: 'Who is signed in, and what time it is in the world', audience: 'anyone',
  response: z.object({
    user: userSchema.nullable(), clock: clockSchema,
    team: z.object({ name: z.string(), zone: z.string(), country: z.string() }),
    demo: z.object({ mailboxUrl: z.string().nullable(), accounts: z.array(z.object({ email: z.string(), name: z.string(), role: z.string(), password: z.string() })) }).nullable(),
  }),
})
export const signIn = endpoint({
  method: 'post', path: '/api/session', summary: 'Sign in', audience: 'anyone',
  body: z.object({ email: required(254), password: z.string().min(1, 'This is needed').max(200) }), response: z.object({ user: userSchema }),
})
export const signOut = endpoint({ method: 'delete', path: '/api/session', summary: 'Sign out here' })
export const signOutElsewhere = endpoint({ method: 'delete', path: '/api/session/others', summary: 'Sign out everywhere else', response: z.object({ ended: z.number() }) })
export const moveClock = endpoint({
  method: 'post', path: '/api/clock', summary: 'Move the demo’s clock forward; what falls due on the way happens, in order',
  body: z.object({ by: z.enum(['hour', 'day', 'step']) }), response: z.object({ target: instant }),
})
export const health = endpoint({
  method: 'get', path: '/api/health', summary: 'Whether it works, and how far the agenda lags', audience: 'anyone',
  response: z.object({ ok: z.boolean(), database: z.boolean(), agendaLagMs: z.number(), mailWaiting: z.number(), mailUnconfirmed: z.number(), workers: z.number() }),
})
export const openapi = endpoint({ method: 'get', path: '/api/openapi.json', summary: 'This document', audience: 'anyone', response: z.record(z.string(), z.unknown()) })
