import { z } from 'zod'
import { endpoint, id } from '../endpoint'

/** Steps of a new installation, for managers, and of a rep's first day. */
export const SETUP_STEPS = [
  'company',
  'email',
  'users',
  'prospects',
  'lists',
  'cadence',
  'timeZone',
  'signature',
  'goals',
  'call',
] as const

export const getSetup = endpoint({
  method: 'get',
  path: '/api/setup',
  summary: 'What is left to set up: the installation for managers, their first day for reps',
  response: z.object({
    hidden: z.boolean(),
    steps: z.array(
      z.object({
        key: z.enum(SETUP_STEPS),
        done: z.boolean(),
        detail: z.string().nullable().describe('How it stands, in words'),
      }),
    ),
  }),
})
export const hideSetup = endpoint({
  method: 'post',
  path: '/api/setup/hide',
  summary: 'Hide the setup guide, or show it again',
  body: z.object({ hidden: z.boolean() }),
})

export const listStarters = endpoint({
  method: 'get',
  path: '/api/setup/starters',
  summary: 'Starter lists and cadences that come with Uphill',
  access: 'manager',
  response: z.object({
    lists: z.array(z.object({ key: z.string(), name: z.string(), sentence: z.string(), taken: z.boolean() })),
    cadences: z.array(
      z.object({
        key: z.string(),
        name: z.string(),
        about: z.string(),
        steps: z.array(z.string()),
        taken: z.boolean(),
      }),
    ),
  }),
})
export const takeStarters = endpoint({
  method: 'post',
  path: '/api/setup/starters',
  summary: 'Add starter lists and cadences; cadences are drafts, and names that exist are skipped',
  access: 'manager',
  body: z.object({ lists: z.array(z.string().max(40)).max(50), cadences: z.array(z.string().max(40)).max(50) }),
  response: z.object({ lists: z.number(), cadences: z.array(z.object({ id, name: z.string() })) }),
})
