import { z } from 'zod'
import {
  BLOCK_SORTS,
  BLOCK_STATES,
  BLOCK_STATUSES,
  BLOCK_TARGETS,
  CALL_PURPOSES,
  PAY_BASES,
  PHONE_KINDS,
  valuesOf,
} from '#core/enumerations'
import { peopleAsked } from '../bulk'
import { endpoint, id, instant, required, text, withId } from '../endpoint'

const day = z.iso.date('Enter a date')
const rules = {
  phoneKinds: z
    .array(z.enum(valuesOf(PHONE_KINDS)))
    .max(4)
    .default([])
    .describe('Kinds of numbers; none for any'),
  phoneStatuses: z
    .array(z.enum(['unverified', 'correct']))
    .max(2)
    .default([])
    .describe('Statuses of numbers; none for any that may be called'),
  phoneTags: z.array(required(60)).max(10).default([]).describe('Tags of numbers; a number has all of them'),
}
const blockContent = {
  name: required(120),
  purpose: z.enum(valuesOf(CALL_PURPOSES)).default('first_contact'),
  script: text(20_000).default('').describe('What to say; may have merge fields'),
  callerIds: z.array(id).min(1, 'Choose at least one caller').max(50),
  dueOn: day.nullable().default(null),
  target: z.number().int('Whole numbers only').min(1, 'Enter 1 or more').max(100_000).nullable().default(null),
  targetOf: z.enum(valuesOf(BLOCK_TARGETS)).default('conversation'),
  sort: z.enum(valuesOf(BLOCK_SORTS)).default('list'),
  ...rules,
  payBasis: z.enum(valuesOf(PAY_BASES)).default('none'),
  payRate: z.number().min(0, 'Enter 0 or more').max(100_000).default(0).describe('In the team’s currency, for each'),
  lines: z.number().int().min(1).max(3).default(1).describe('How many lines are dialed for each caller at most'),
  campaign: text(120).default('').describe('Abandoned calls are counted by it; empty for the name of the block'),
  callBackMessage: text(500)
    .default('')
    .describe('What someone hears who answers while no caller is free; says who is calling, with a number'),
  leavesMessages: z.boolean().default(false).describe('Whether voicemail boxes get the caller’s message'),
}
/** Who is to be called: people, or those of a block before who were not reached. */
const who = {
  who: z.object(peopleAsked).optional(),
  notReachedIn: id.optional().describe('Everyone of that block who was not reached'),
  attempts: z
    .object({ from: z.number().int().min(0).max(999), to: z.number().int().min(0).max(999) })
    .refine(({ from, to }) => from <= to, { path: ['to'], message: 'Must not be less than the start' })
    .nullable()
    .default(null)
    .describe('Only those with so many attempts so far'),
}
const counts = z.object({
  to_call: z.number(),
  tried: z.number(),
  message: z.number(),
  reached: z.number(),
  meeting: z.number(),
  skipped: z.number(),
  open: z.number().describe('Still to call in this pass'),
})
const state = z.enum(valuesOf(BLOCK_STATES))
const bead = z.object({
  prospectId: id,
  name: z.string(),
  state,
  callerId: id.nullable(),
  inHand: z.boolean(),
  dialer: z.string().nullable().describe('The other dialer that has them to call'),
  open: z.boolean(),
})
const user = z.object({ id, name: z.string() })
const summary = z.object({
  id,
  name: z.string(),
  purpose: z.enum(valuesOf(CALL_PURPOSES)),
  status: z.enum(valuesOf(BLOCK_STATUSES)),
  createdBy: z.string(),
  createdAt: instant,
  dueOn: z.string().nullable(),
  target: z.number().nullable(),
  targetOf: z.enum(valuesOf(BLOCK_TARGETS)),
  pass: z.number(),
  callers: z.array(user),
  counts,
  made: z.object({ call: z.number(), conversation: z.number(), meeting: z.number() }),
  inWords: z.string(),
  beads: z.array(bead).describe('In the order of calling; none of a block of more than a thousand'),
})
export type BlockSummary = z.infer<typeof summary>
export type BlockBead = z.infer<typeof bead>

export const listBlocks = endpoint({
  method: 'get',
  path: '/api/call-blocks',
  callers: true,
  summary: 'Call blocks: those one calls in or made; a manager gets all',
  query: z.object({ closed: z.enum(['yes', 'no']).default('no') }),
  response: z.object({ blocks: z.array(summary) }),
})
export const previewBlock = endpoint({
  method: 'post',
  path: '/api/call-blocks/preview',
  readsOnly: true,
  summary: 'How many would be called now and later today, and who is skipped and why',
  body: z.object({ ...who, ...rules, purpose: blockContent.purpose }),
  response: z.object({
    found: z.number(),
    people: z.number().describe('Who would be in it'),
    callableNow: z.number(),
    laterToday: z.number(),
    skipped: z.array(
      z.object({ why: z.string(), count: z.number(), people: z.array(z.object({ id, name: z.string() })) }),
    ),
  }),
})
export const addBlock = endpoint({
  method: 'post',
  path: '/api/call-blocks',
  summary: 'Make a call block; a rep makes one for themselves',
  body: z.object({ id, ...blockContent, ...who }),
  response: z.object({ id, people: z.number() }),
})
const callerAccount = z.object({
  caller: user.describe('A user, or another dialer with the id of the export to it'),
  people: z.number(),
  calls: z.number(),
  reached: z.number().describe('People who were spoken to'),
  conversations: z.number(),
  messages: z.number(),
  meetings: z.number(),
  seconds: z.number().describe('Time worked in the block'),
  workingNow: z.boolean(),
  pay: z.number().describe('In the team’s currency, by what the block pays for'),
})
export type CallerAccount = z.infer<typeof callerAccount>
export const getBlock = endpoint({
  method: 'get',
  path: '/api/call-blocks/{id}',
  summary: 'A call block as it stands: who is called, by whom, what came of it',
  params: withId,
  response: summary.extend({
    ...blockContent,
    dueOn: z.string().nullable(),
    name: z.string(),
    callerIds: z.array(id),
    version: z.number(),
    currency: z.string(),
    mayEdit: z.boolean(),
    mayCall: z.boolean(),
    closedAt: instant.nullable(),
    account: z.array(callerAccount),
    calls: z
      .array(
        z.object({
          id,
          at: instant,
          prospect: z.object({ id, name: z.string(), company: z.string().nullable() }),
          caller: z.string().nullable(),
          outcome: z.string(),
          note: z.string().nullable(),
        }),
      )
      .describe('The last calls, the newest first'),
    skipped: z.array(z.object({ prospect: z.object({ id, name: z.string() }), why: z.string() })),
    now: instant,
  }),
})
export type Block = z.infer<typeof getBlock.response>
export const editBlock = endpoint({
  method: 'put',
  path: '/api/call-blocks/{id}',
  summary: 'Change a call block; who is no longer a caller gives back those they have not called',
  params: withId,
  body: z.object({ ...blockContent, version: z.number().int() }),
  response: z.object({ version: z.number() }),
})
export const addToBlock = endpoint({
  method: 'post',
  path: '/api/call-blocks/{id}/people',
  summary: 'Add people to a call block',
  params: withId,
  body: z.object(who),
  response: z.object({ added: z.number() }),
})
export const removeFromBlock = endpoint({
  method: 'post',
  path: '/api/call-blocks/{id}/remove',
  summary: 'Take people who have not been called out of a call block',
  params: withId,
  body: z.object({ prospectIds: z.array(id).min(1).max(10_000) }),
  response: z.object({ removed: z.number() }),
})
export const closeBlock = endpoint({
  method: 'post',
  path: '/api/call-blocks/{id}/close',
  summary: 'Close a call block, or open it again; its account stays',
  params: withId,
  body: z.object({ closed: z.boolean() }),
})
export const blockCsv = endpoint({
  method: 'get',
  path: '/api/call-blocks/{id}/account.csv',
  summary: 'The account of a call block, a row for each caller, as CSV',
  params: withId,
  response: z.any(),
})
