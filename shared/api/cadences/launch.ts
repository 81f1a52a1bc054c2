import { z } from 'zod'
import { peopleAsked } from '../bulk'
import { endpoint, id, instant, withId } from '../endpoint'

const load = z.object({
  calls: z.array(z.number()),
  texts: z.array(z.number()),
  tasks: z.array(z.number()),
  emails: z.array(z.number()),
})
const who = z
  .object(peopleAsked)
  .refine((asked) => Object.values(asked).some((value) => value !== undefined), 'Choose who is to start')
const perDay = z.number().int().min(1).max(100_000).nullable()

export const forecastLaunch = endpoint({
  method: 'post',
  path: '/api/cadences/{id}/forecast',
  readsOnly: true,
  summary: 'Who would start a cadence and when, who would not and why, and the work it brings each rep',
  params: withId,
  body: z.object({
    who,
    startAt: instant.nullable().default(null).describe('null: at once'),
    perDay: perDay.optional().describe('Instead of the cadence’s own number'),
  }),
  response: z.object({
    now: instant,
    found: z.number(),
    starts: z.number(),
    refused: z.array(
      z.object({ why: z.string(), count: z.number(), people: z.array(z.object({ id, name: z.string() })) }),
    ),
    perDay: z.number().nullable(),
    startDays: z.array(z.object({ day: z.string(), count: z.number() })).describe('ISO days where the team is'),
    steps: z
      .array(z.object({ stepId: id, at: instant, moved: z.string().nullable() }))
      .describe('Of the first to start'),
    timeZone: z.string().describe('Where the first to start is'),
    days: z.array(z.string()).describe('The next working days of the team'),
    reps: z.array(
      z.object({
        id: id.nullable(),
        name: z.string(),
        people: z.number(),
        /** What fits into a day; 0 where nothing is said of it. */
        capacity: z.object({ calls: z.number(), emails: z.number() }),
        running: load.describe('What the cadences that run bring, if every step is done and nobody leaves'),
        added: load.describe('What this launch brings beside it'),
      }),
    ),
    advice: z
      .object({ message: z.string(), perDay: z.number().nullable() })
      .nullable()
      .describe('Where it is more than fits: the day, and how many a day would fit (null: not even one)'),
  }),
})
export const launchCadence = endpoint({
  method: 'post',
  path: '/api/cadences/{id}/launch',
  summary: 'Start a cadence with many, at once or at a time; it runs as a bulk action',
  params: withId,
  body: z.object({
    id,
    who,
    startAt: instant.nullable().default(null),
    perDay: perDay.optional().describe('Sets how many may start the cadence a day, from now on; left out: as it is'),
  }),
  response: z.object({ id, touches: z.number() }),
})
