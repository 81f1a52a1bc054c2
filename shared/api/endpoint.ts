import { z } from 'zod'

/** Who may call an endpoint: anyone, anyone signed in, or only those who manage. */
export type Access = 'anyone' | 'team' | 'manager'

/**
 * What crosses the wire at one endpoint: the one definition that routes, the interface and the OpenAPI document share.
 */
export interface Endpoint<
  P extends z.ZodType = z.ZodType,
  Q extends z.ZodType = z.ZodType,
  B extends z.ZodType = z.ZodType,
  R extends z.ZodType = z.ZodType,
> {
  method: 'get' | 'post' | 'patch' | 'put' | 'delete'
  /** With {name} for parameters, from /api on. */
  path: string
  summary: string
  access: Access
  /** Whether callers, who see only their call blocks and to-dos, may call it too. */
  callers: boolean
  /** A POST that changes nothing: a question too long for an address. Keys that may only read can ask it. */
  readsOnly: boolean
  params: P
  query: Q
  body: B
  response: R
}

const none = z.object({})

/**
 * Describes an endpoint; what is left out is empty. Signed-in people may call it unless `access` says otherwise, and
 * callers only where it says so.
 */
export function endpoint<
  P extends z.ZodType = typeof none,
  Q extends z.ZodType = typeof none,
  B extends z.ZodType = typeof none,
  R extends z.ZodType = typeof none,
>(given: {
  method: Endpoint['method']
  path: string
  summary: string
  access?: Access
  callers?: boolean
  readsOnly?: boolean
  params?: P
  query?: Q
  body?: B
  response?: R
}): Endpoint<P, Q, B, R> {
  return {
    ...given,
    access: given.access ?? 'team',
    callers: given.callers ?? false,
    readsOnly: given.readsOnly ?? false,
    params: given.params ?? (none as unknown as P),
    query: given.query ?? (none as unknown as Q),
    body: given.body ?? (none as unknown as B),
    response: given.response ?? (none as unknown as R),
  }
}

/** The one shape in which every error is answered. */
export const errorSchema = z.object({
  error: z.object({
    code: z.enum([
      'invalid',
      'not_signed_in',
      'second_factor',
      'password_change_needed',
      'not_allowed',
      'not_found',
      'conflict',
      'already_done',
      'wrong_method',
      'refused',
      'throttled',
      'too_large',
      'timed_out',
      'unavailable',
      'failed',
    ]),
    message: z.string(),
    /** What is wrong where: the field of the request and a sentence. */
    problems: z.array(z.object({ field: z.string(), message: z.string() })),
    /** What holds now, where the caller's picture is out of date. */
    current: z.unknown().optional(),
  }),
})
export type ErrorAnswer = z.infer<typeof errorSchema>

export const id = z.uuid('Not a valid id')
export const withId = z.object({ id })
/**
 * Milliseconds since 1970-01-01T00:00Z, from 1900 to 2200: what every calendar, and every program that reads it, can
 * hold.
 */
export const instant = z
  .number()
  .int()
  .min(Date.UTC(1900, 0), 'Choose a date after 1900')
  .max(Date.UTC(2200, 0), 'Choose a date before 2200')
/** Text that can be kept: no NUL, no half characters. */
export function text(longest: number) {
  return z
    .string()
    .max(longest)
    .refine((value) => !value.includes('\0') && !/\p{Cs}/u.test(value), 'Contains characters that cannot be saved')
}
export function required(longest: number) {
  return text(longest).trim().min(1, 'Required')
}
export const timeZone = z
  .string()
  .max(60)
  .refine((name) => {
    try {
      return Boolean(new Intl.DateTimeFormat('en', { timeZone: name }))
    } catch {
      return false
    }
  }, 'Unknown time zone')
