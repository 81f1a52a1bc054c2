import { z } from 'zod'
import { DATE_STYLES, DIALERS, KEY_RIGHTS, ROLES, valuesOf } from '#core/enumerations'
import { endpoint, id, instant, required, text, withId, timeZone } from './endpoint'

const password = z.string().min(10, 'At least 10 characters').max(200)
const code = z
  .string()
  .trim()
  .regex(/^\d{3} ?\d{3}$/, 'Six digits, like 123 456')

export const getAccount = endpoint({
  method: 'get',
  path: '/api/account',
  callers: true,
  summary: 'Your account: second factor and sessions',
  response: z.object({
    secondFactor: z.boolean(),
    idleMinutes: z.number(),
    sessions: z.array(
      z.object({
        id,
        agent: z.string(),
        address: z.string(),
        startedAt: instant,
        lastSeenAt: instant,
        current: z.boolean(),
      }),
    ),
  }),
})
export const editAccount = endpoint({
  method: 'patch',
  path: '/api/account',
  callers: true,
  summary: 'Change your time zone, signature, how you read dates and call, and whether notifications are emailed',
  body: z.object({
    timeZone: timeZone.optional(),
    dateStyle: z.enum(valuesOf(DATE_STYLES)).optional(),
    callsWith: z.enum(valuesOf(DIALERS)).optional().describe('With their own phone, Uphill gives the number to it'),
    signature: text(2000).optional(),
    notifyByEmail: z.boolean().optional().describe('Email notifications that are not read within five minutes'),
  }),
})
export const endSession = endpoint({
  method: 'delete',
  path: '/api/account/sessions/{id}',
  callers: true,
  summary: 'End one of your sessions',
  params: withId,
})
export const changePassword = endpoint({
  method: 'post',
  path: '/api/account/password',
  callers: true,
  summary: 'Change your password; every other session of yours ends',
  body: z.object({ current: z.string().min(1, 'Required').max(200), next: password }),
})
export const startSecondFactor = endpoint({
  method: 'post',
  path: '/api/account/second-factor',
  callers: true,
  summary: 'Start setting up a second factor (RFC 6238); it is on once a code is confirmed',
  body: z.object({ password: z.string().min(1, 'Required').max(200) }),
  response: z.object({
    secret: z.string(),
    uri: z.string(),
    picture: z.string().describe('The address as a QR code, SVG'),
  }),
})
export const confirmSecondFactor = endpoint({
  method: 'put',
  path: '/api/account/second-factor',
  callers: true,
  summary: 'Confirm the second factor with a code from the app',
  body: z.object({ secret: z.string().regex(/^[A-Z2-7]{32}$/), code }),
})
export const removeSecondFactor = endpoint({
  method: 'post',
  path: '/api/account/second-factor/remove',
  callers: true,
  summary: 'Turn the second factor off',
  body: z.object({ password: z.string().min(1, 'Required').max(200) }),
})

export const resetPassword = endpoint({
  method: 'post',
  path: '/api/password-reset',
  summary: 'Set a new password with a reset link; it works once',
  access: 'anyone',
  body: z.object({ token: z.string().min(20).max(100), password }),
  response: z.object({ email: z.string() }),
})
export const makeResetLink = endpoint({
  method: 'post',
  path: '/api/users/{id}/reset-link',
  summary: 'Create a link with which a user sets a new password, once',
  access: 'manager',
  params: withId,
  response: z.object({ url: z.string(), expiresAt: instant }),
})
export const inviteUser = endpoint({
  method: 'post',
  path: '/api/users/invite',
  summary: 'Invite a user by email: they set their own password with a link that works for a week',
  access: 'manager',
  body: z.object({
    id: id.describe('Of the email'),
    name: required(100),
    email: z
      .email('Enter a valid email address')
      .max(254)
      .transform((email) => email.toLowerCase()),
    role: z.enum(valuesOf(ROLES)).default('rep'),
    timeZone,
  }),
  response: z.object({ userId: id }),
})
export const getUserWork = endpoint({
  method: 'get',
  path: '/api/users/{id}/work',
  summary: 'What a user has that must be handed over before they leave',
  access: 'manager',
  params: withId,
  response: z.object({
    people: z.number(),
    openTasks: z.number(),
    queuedEmails: z.number(),
    enrollments: z.number(),
    keys: z.number(),
  }),
})
export const deactivateUser = endpoint({
  method: 'post',
  path: '/api/users/{id}/deactivate',
  summary: 'Deactivate a user: sessions and keys end at once, and their prospects and tasks go to another user',
  access: 'manager',
  params: withId,
  body: z.object({ id: id.describe('Of the bulk action that hands their people over'), handOverTo: id.nullable() }),
  response: z.object({ handedOver: z.number() }),
})

export const listKeys = endpoint({
  method: 'get',
  path: '/api/keys',
  summary: 'Your API keys',
  response: z.object({
    keys: z.array(
      z.object({
        id,
        name: z.string(),
        hint: z.string(),
        rights: z.enum(valuesOf(KEY_RIGHTS)),
        createdAt: instant,
        expiresAt: instant,
        lastUsedAt: instant.nullable(),
        revoked: z.boolean(),
      }),
    ),
  }),
})
export const addKey = endpoint({
  method: 'post',
  path: '/api/keys',
  summary: 'Create an API key; it is shown once',
  body: z.object({
    name: required(100),
    rights: z.enum(valuesOf(KEY_RIGHTS)).default('write'),
    days: z.number().int().min(1, 'At least one day').max(730, 'At most two years').default(365),
  }),
  response: z.object({ id, key: z.string() }),
})
export const revokeKey = endpoint({
  method: 'delete',
  path: '/api/keys/{id}',
  summary: 'Revoke an API key',
  params: withId,
})
