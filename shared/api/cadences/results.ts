import { z } from 'zod'
import { STEP_FIGURES, WAITS_FOR } from '#core/cadence/figures'
import { STEP_KINDS, valuesOf } from '#core/enumerations'
import { endpoint, id, instant, text, withId } from '../endpoint'

const stepFigure = z.enum(STEP_FIGURES)
export const cadenceResults = endpoint({
  method: 'get',
  path: '/api/cadences/{id}/results',
  summary: 'What came of each step of a cadence so far: who is there, what was done, who left and why',
  params: withId,
  response: z.object({
    name: z.string(),
    entered: z.number(),
    active: z.number(),
    meetings: z.number(),
    exits: z.record(z.string(), z.number()),
    steps: z.array(
      z.object({
        id,
        kind: z.enum(valuesOf(STEP_KINDS)),
        name: z.string(),
        wayId: id.nullable(),
        archived: z.boolean(),
        earlier: z.boolean().describe('Whether it is of an earlier version, which people finish'),
        here: z.number(),
        /** How many people each figure counts; what a step of its kind has none of is left out. */
        figures: z.partialRecord(stepFigure, z.number()),
        left: z.record(z.string(), z.number()).describe('Who left at this step, by why'),
        versions: z
          .array(z.object({ id, name: z.string(), figures: z.partialRecord(stepFigure, z.number()) }))
          .describe('Of an email with versions: what came of each'),
      }),
    ),
  }),
})
export const cadenceResultPeople = endpoint({
  method: 'get',
  path: '/api/cadences/{id}/results/people',
  summary: 'The people whom one figure of a step counts, those the viewer may see',
  params: withId,
  query: z.object({
    step: id,
    figure: z.union([stepFigure, z.enum(['here', 'left'])]),
    exit: text(40).optional(),
    version: id.optional(),
  }),
  response: z.object({
    people: z.array(
      z.object({
        id,
        name: z.string(),
        company: z.string().nullable(),
        enrollmentId: id,
        status: z.string(),
        waitsFor: z.enum(valuesOf(WAITS_FOR)).nullable().describe('Of those who are there: what they wait for'),
        until: instant.nullable(),
      }),
    ),
    count: z.number(),
  }),
})
