import { z } from 'zod'
import {
  BULK_STATUSES,
  CHANNELS,
  EMAIL_TYPES,
  PROSPECT_STATUSES,
  TASK_STATUSES,
  TO_DO_KINDS,
  valuesOf,
} from '#core/enumerations'
import { actionSchema } from '#core/actions/registry'
import { emailFormatting, filledEmail, toDoContent } from './emailText'
import { endpoint, id, instant, required, text, withId } from './endpoint'
import { filterInput, goalState } from './lists'
import { ratingGiven } from './prospects'

/** What can be done to many people at once. */
export const bulkActionSchema = z.discriminatedUnion('type', [
  z.object({
    type: z.literal('assign'),
    to: z.array(id).min(1).max(100).describe('One, or several in turn'),
    apart: z.boolean().optional().describe('Of several: companies may be split between them'),
  }),
  z.object({ type: z.literal('assignToCompanyOwner') }),
  z.object({ type: z.literal('tag'), tag: required(60) }),
  z.object({ type: z.literal('untag'), tag: required(60) }),
  z.object({ type: z.literal('rate'), rating: ratingGiven }),
  z.object({
    type: z.literal('work'),
    status: z.enum(valuesOf(PROSPECT_STATUSES)),
    reason: text(500).optional().describe('Why, where they are archived'),
  }),
  z.object({
    type: z.literal('stage'),
    to: z.string().max(60),
    reason: text(500).nullable().default(null),
    override: text(500).nullable().default(null).describe('For managers: why the gate is overridden'),
  }),
  z.object({ type: z.literal('putOn'), listId: id }),
  z.object({
    type: z.literal('setField'),
    field: z.union([
      z.enum(['title', 'source', 'city', 'region', 'postalCode', 'country', 'timeZone']),
      z.templateLiteral(['custom:', z.uuid()]),
    ]),
    value: z.unknown().describe('null empties it'),
  }),
  z.object({
    type: z.literal('enroll'),
    cadenceId: id,
    startAt: instant.nullable().optional().describe('When the cadence starts; null or left out: at once'),
  }),
  z.object({ type: z.literal('leaveCadences'), cadenceId: id.nullable().describe('One cadence, or null for all') }),
  z.object({ type: z.literal('stop'), channel: z.enum(valuesOf(CHANNELS)) }),
  z.object({
    type: z.literal('plan'),
    task: z.enum(valuesOf(TO_DO_KINDS)),
    title: required(200),
    ...toDoContent,
    dueAt: instant,
    ownerId: id.nullable().describe('null: each person’s own owner'),
  }),
  z.object({
    type: z.literal('actions'),
    actions: z.array(actionSchema).min(1).max(20).describe('As outcomes have them, in order; for managers'),
  }),
  z.object({
    type: z.literal('email'),
    subject: required(300),
    body: required(50_000),
    ...emailFormatting,
    kind: z.enum(valuesOf(EMAIL_TYPES)),
    sendAt: instant.nullable().describe('null: at once'),
  }),
])
export type BulkAction = z.infer<typeof bulkActionSchema>
/** A bulk action as it is kept: one of them, or the undo of one. */
const storedAction = z.union([
  bulkActionSchema,
  z.object({ type: z.literal('undo'), actionId: id, of: bulkActionSchema }),
])
export type StoredBulkAction = z.infer<typeof storedAction>

/** Whom it is for: those who are named, or all that match. */
export const peopleAsked = {
  prospectIds: z.array(id).min(1).max(10_000).optional(),
  filter: filterInput.optional(),
  list: id.optional(),
  search: text(200).optional(),
  goal: goalState.optional(),
}
const asked = { action: bulkActionSchema, ...peopleAsked }
const leftOut = z.array(
  z.object({ reason: z.string(), count: z.number(), people: z.array(z.object({ id, name: z.string() })) }),
)

export const previewBulk = endpoint({
  method: 'post',
  path: '/api/bulk/preview',
  readsOnly: true,
  summary: 'How many prospects a bulk action would change, and who is skipped and why',
  body: z.object(asked),
  response: z.object({
    touches: z.number(),
    leftOut,
    /** Assigned in turn: how many each gets. */
    shares: z.array(z.object({ id, name: z.string(), people: z.number() })),
    /** For mail: customers apart from prospects, and the mail as the first ten of them would get it. */
    mail: z
      .object({
        customers: z.number(),
        prospects: z.number(),
        examples: z.array(z.object({ id, name: z.string(), ...filledEmail })),
      })
      .nullable(),
  }),
})
export const startBulk = endpoint({
  method: 'post',
  path: '/api/bulk',
  summary: 'Start a bulk action; it runs in the background',
  body: z.object({ id, ...asked }),
  response: z.object({ id, touches: z.number() }),
})
const account = z.object({
  id,
  action: storedAction,
  object: z
    .string()
    .nullable()
    .describe('The name of the stage, list, cadence, owners or custom field that the action is about'),
  undone: z.boolean(),
  about: z.string(),
  by: z.string(),
  status: z.enum(valuesOf(BULK_STATUSES)),
  touches: z.number(),
  done: z.number(),
  at: instant,
  endedAt: instant.nullable(),
})
export const listBulk = endpoint({
  method: 'get',
  path: '/api/bulk',
  summary: 'Bulk actions, newest first: the caller’s own, or everyone’s for managers',
  response: z.object({ changes: z.array(account) }),
})
export const getBulk = endpoint({
  method: 'get',
  path: '/api/bulk/{id}',
  summary: 'How far a bulk action is, and its result',
  params: withId,
  response: account.extend({
    leftOut,
    toDos: z
      .array(
        z.object({
          ownerId: id.nullable(),
          owner: z.string().nullable(),
          made: z.number(),
          open: z.number(),
          overdue: z.number().describe('Of the open ones'),
          done: z.number(),
          cancelled: z.number(),
        }),
      )
      .describe('Of planned to-dos: what was made for each owner, and what became of it'),
    unchanged: leftOut.describe('Of an undo: what stays as it is for those for whom the rest was undone'),
  }),
})
export const bulkToDos = endpoint({
  method: 'get',
  path: '/api/bulk/{id}/to-dos',
  summary: 'The to-dos that a bulk action planned, with what became of each: the open ones first',
  params: withId,
  query: z.object({ ownerId: id.optional().describe('Those of one owner; left out: of those nobody owns') }),
  response: z.object({
    toDos: z.array(
      z.object({
        id,
        prospectId: id,
        name: z.string(),
        company: z.string().nullable(),
        status: z.enum(valuesOf(TASK_STATUSES)),
        dueAt: instant,
        overdue: z.boolean(),
        doneAt: instant.nullable(),
        outcome: z.string().nullable().describe('The outcome that was logged for it'),
      }),
    ),
    count: z.number().describe('How many there are; the first 500 are listed'),
  }),
})
export const undoBulk = endpoint({
  method: 'post',
  path: '/api/bulk/{id}/undo',
  summary: 'Undo a bulk action as a whole; what was changed since stays and is named',
  params: withId,
  body: z.object({ id }),
  response: z.object({ id, touches: z.number() }),
})
