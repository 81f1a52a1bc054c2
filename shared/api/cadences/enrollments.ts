import { z } from 'zod'
import { endpoint, id, instant, withId } from '../endpoint'

export const enroll = endpoint({
  method: 'post',
  path: '/api/cadences/{id}/enrollments',
  summary: 'Enroll prospects; with dryRun, only say who can be and who can’t',
  params: withId,
  body: z
    .object({
      prospectIds: z.array(id).max(10_000).optional(),
      importId: id.optional(),
      dryRun: z.boolean().default(false),
    })
    .refine((body) => Boolean(body.prospectIds?.length) !== Boolean(body.importId), 'Choose prospects or an import'),
  response: z.object({
    enrolled: z.number(),
    /** Whose email and calls they will be, the most first: each one’s owner, else the user who enrolls them. */
    senders: z.array(z.object({ id, name: z.string(), people: z.number(), unowned: z.number() })),
    /**
     * Fields that steps of email need and some do not have: these emails will wait for them. Looked up for the first
     * thousand.
     */
    missing: z.array(z.object({ field: z.string(), people: z.number() })),
    refused: z.array(z.object({ prospectId: id, name: z.string(), why: z.string() })),
    refusedCount: z.number(),
  }),
})
export const skipStep = endpoint({
  method: 'post',
  path: '/api/enrollments/{id}/skip',
  summary: 'Leave the step out that a prospect is at; the cadence goes on with the next one',
  params: withId,
  body: z.object({ id }),
  response: z.object({ summary: z.string() }),
})
export const moveEnrollment = endpoint({
  method: 'post',
  path: '/api/enrollments/{id}/move',
  summary: 'Move a prospect to a step of the cadence they are in, at once or at a time; or let theirs wait until then',
  params: withId,
  body: z
    .object({
      id,
      stepId: id.nullable().default(null).describe('null: the step they are at'),
      dueAt: instant.nullable().default(null).describe('null: at once'),
    })
    .refine(({ stepId, dueAt }) => stepId !== null || dueAt !== null, 'Choose a step or a time'),
  response: z.object({ summary: z.string() }),
})
export const unenroll = endpoint({
  method: 'post',
  path: '/api/enrollments/{id}/end',
  summary: 'Remove a prospect from a cadence',
  params: withId,
  body: z.object({ id }),
  response: z.object({ summary: z.string() }),
})
