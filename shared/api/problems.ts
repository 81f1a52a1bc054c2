import { z } from 'zod'
import { endpoint, id, instant } from './endpoint'

const person = z.object({ id, name: z.string() }).nullable()
const setAsideSchema = z.object({
  id: z.string(),
  kind: z.enum(['step', 'email', 'action', 'incoming', 'job']),
  what: z.string(),
  person,
  error: z.string(),
  at: instant,
})
export type SetAside = z.infer<typeof setAsideSchema>

export const listProblems = endpoint({
  method: 'get',
  path: '/api/problems',
  summary: 'Problems: work that failed three times (for managers), emails with unknown delivery, and blocked emails',
  response: z.object({
    setAside: z.array(setAsideSchema),
    unknown: z.array(
      z.object({
        messageId: id,
        subject: z.string(),
        person,
        sender: z.string().nullable(),
        at: instant,
        error: z.string(),
      }),
    ),
    unknownCount: z.number(),
    blocked: z.array(
      z.object({
        messageId: id,
        subject: z.string(),
        person,
        sender: z.string().nullable(),
        at: instant,
        error: z.string(),
      }),
    ),
    blockedCount: z.number(),
  }),
})
const which = z.object({ kind: z.enum(['step', 'email', 'action', 'incoming', 'job']), id: z.string().min(1).max(60) })
export const retryProblem = endpoint({
  method: 'post',
  path: '/api/problems/retry',
  summary: 'Run set-aside work again',
  access: 'manager',
  body: which,
})
export const discardProblem = endpoint({
  method: 'post',
  path: '/api/problems/discard',
  summary: 'Discard set-aside work; a cadence goes on without it',
  access: 'manager',
  body: which,
})
export const settleEmails = endpoint({
  method: 'post',
  path: '/api/problems/emails',
  summary: 'Mark several emails as sent, or send them again',
  body: z.object({ messageIds: z.array(id).min(1).max(500), wentOut: z.boolean() }),
  response: z.object({ settled: z.number(), refused: z.array(z.object({ messageId: id, reason: z.string() })) }),
})
