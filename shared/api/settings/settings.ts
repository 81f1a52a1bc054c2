import { z } from 'zod'
import { ROLES, valuesOf } from '#core/enumerations'
import { endpoint, id, required, text, withId, timeZone } from '../endpoint'
import { userSchema } from '../session'

export const listUsers = endpoint({
  method: 'get',
  path: '/api/users',
  summary: 'The team',
  response: z.object({ users: z.array(userSchema.extend({ active: z.boolean(), team: z.string().nullable() })) }),
})
export const addUser = endpoint({
  method: 'post',
  path: '/api/users',
  summary: 'Add a user',
  access: 'manager',
  body: z.object({
    name: required(200),
    email: z.email('Enter a valid email address').max(254).toLowerCase(),
    role: z.enum(valuesOf(ROLES)),
    timeZone,
    password: z.string().min(10, 'At least 10 characters').max(200),
  }),
  response: z.object({ id }),
})
export const editUser = endpoint({
  method: 'patch',
  path: '/api/users/{id}',
  summary: 'Change a user’s role or team, or deactivate them',
  access: 'manager',
  params: withId,
  body: z.object({
    team: z.string().trim().max(60).nullable().optional(),
    role: z.enum(valuesOf(ROLES)).optional(),
    active: z.boolean().optional(),
  }),
})

const teamSchema = z.object({
  name: required(200),
  postalAddress: text(500),
  country: z.string().regex(/^[A-Z]{2}$/, 'Two capital letters, like US'),
  timeZone,
  sharesAll: z.boolean(),
  callDays: z.array(z.number().int().min(1).max(7)).min(1, 'Choose at least one day'),
  callFrom: z.number().int().min(0).max(1439),
  callTo: z.number().int().min(1).max(1440),
  fallbackDays: z.number().int().min(1).max(730),
  retryDays: z.number().int().min(1).max(60),
  countsUncalled: z.boolean(),
  callQualities: z
    .array(required(30))
    .max(5)
    .refine((words) => new Set(words.map((word) => word.toLowerCase())).size === words.length, 'Each word once')
    .default(['Good', 'Fair', 'Poor'])
    .describe('Words for how a call went'),
  countClicks: z.boolean().default(true).describe('Whether clicks on links in emails are counted'),
  mostOverdue: z
    .number()
    .int('Whole numbers only')
    .min(1, 'Enter 1 or more')
    .max(10_000)
    .nullable()
    .default(30)
    .describe('With more overdue than this a rep is assigned nobody new; null: no limit'),
  attemptNotes: z.boolean().default(false).describe('Whether a note is required with every attempt'),
  currency: z.string().regex(/^[A-Z]{3}$/, 'Three capital letters, like USD'),
  attemptsAllowed: z.number().int().min(1).max(99),
  idleMinutes: z.number().int().min(5, 'At least 5 minutes').max(20_160, 'At most two weeks').default(720),
})
export const getTeam = endpoint({
  method: 'get',
  path: '/api/team',
  summary: 'The team’s settings',
  response: teamSchema,
})
export const editTeam = endpoint({
  method: 'put',
  path: '/api/team',
  summary: 'Change the team’s settings',
  access: 'manager',
  body: teamSchema.refine((team) => team.callFrom < team.callTo, {
    path: ['callTo'],
    message: 'Calling hours must end after they start',
  }),
  response: teamSchema,
})

const points = z.number().int('Enter whole points').min(-1000).max(1000)
const scoreSchema = z.object({
  points: z
    .object({ reply: points, conversation: points, meeting: points, visit: points, opened: points })
    .describe(
      'What each is worth: a reply, a call that reached them, a meeting, a visit to a page, a mail of ours opened for the first time',
    ),
  warmFrom: z.number().int().min(1).max(100_000),
  hotFrom: z.number().int().min(2).max(100_000),
})
export type Score = z.infer<typeof scoreSchema>
export const getScore = endpoint({
  method: 'get',
  path: '/api/score',
  summary: 'Score points, and the thresholds for warm and hot',
  response: scoreSchema,
})
export const editScore = endpoint({
  method: 'put',
  path: '/api/score',
  summary: 'Change the score points; all prospects are rescored',
  access: 'manager',
  body: scoreSchema.refine((score) => score.warmFrom < score.hotFrom, {
    path: ['hotFrom'],
    message: 'The hot threshold must be above the warm one',
  }),
  response: scoreSchema,
})

export const listSources = endpoint({
  method: 'get',
  path: '/api/sources',
  summary: 'Sources: cost, aliases, and what each brought',
  response: z.object({
    sources: z.array(
      z.object({
        name: z.string(),
        cost: z.number(),
        aliases: z.array(z.string()),
        people: z.number(),
        reached: z.number().describe('Who answered or was spoken to'),
        meetings: z.number(),
        opened: z.number(),
        deals: z.number().describe('Won'),
        wonValue: z.number(),
      }),
    ),
  }),
})
export const saveSource = endpoint({
  method: 'put',
  path: '/api/sources/{name}',
  summary: 'Set the cost and aliases of a source; created where there is none',
  access: 'manager',
  params: z.object({ name: required(300) }),
  body: z.object({
    cost: z.number().min(0, 'Enter 0 or more').max(1e9),
    aliases: z.array(text(300)).max(50).default([]),
  }),
  response: z.object({ people: z.number() }),
})
export const removeSource = endpoint({
  method: 'delete',
  path: '/api/sources/{name}',
  summary: 'Delete a source that no prospect has',
  access: 'manager',
  params: z.object({ name: required(300) }),
})
