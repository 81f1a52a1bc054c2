import { z } from 'zod'
import { LINE_STATUSES, valuesOf } from '#core/enumerations'
import { endpoint, id, instant, withId } from '../endpoint'

const lineCall = z.object({
  id,
  prospectId: id,
  name: z.string(),
  company: z.string().nullable(),
  status: z.enum(valuesOf(LINE_STATUSES)),
  startedAt: instant,
  endedAt: instant.nullable(),
})
export type LineCall = z.infer<typeof lineCall>

export const dialLines = endpoint({
  method: 'post',
  path: '/api/call-blocks/{id}/lines',
  callers: true,
  summary: 'Wait for a call in a block that dials several lines, or no longer; asked again every second while waiting',
  params: withId,
  body: z.object({ on: z.boolean() }),
  response: z.object({
    on: z.boolean(),
    call: z.object({ id, prospectId: id }).nullable().describe('The call the caller was put through to'),
    ringing: z.array(lineCall).describe('What rings in the block, for all its callers'),
    last: z.array(lineCall).describe('How the last calls ended, the newest first'),
  }),
})
export const linesReport = endpoint({
  method: 'get',
  path: '/api/call-blocks/{id}/lines',
  summary:
    'How several lines do: the calls of the campaign in 30 days, how many were abandoned, what may be dialed now',
  params: withId,
  response: z.object({
    lines: z.number().describe('For each caller at most'),
    campaign: z.string(),
    dialed: z.number(),
    answered: z.number().describe('Answered by a person'),
    abandoned: z.number().describe('Of those, without a caller on the line within 2 seconds'),
    byStatus: z.partialRecord(z.enum(valuesOf(LINE_STATUSES)), z.number()),
    abandonedShare: z
      .object({ share: z.number(), low: z.number(), high: z.number() })
      .nullable()
      .describe('With its 95 % interval; the rule allows 0.03'),
    free: z.number().describe('Callers who wait now'),
    ringing: z.number(),
    mayDial: z.number().describe('How many more calls may be started now'),
    fault: z.string().nullable().describe('What keeps lines from being dialed'),
    facts: z.object({
      callers: z.number(),
      answerRate: z.number(),
      callSeconds: z.number(),
      handleSeconds: z.number(),
    }),
    table: z
      .array(
        z.object({
          perCaller: z.number(),
          lines: z.number(),
          answersPerHour: z.number(),
          noCaller: z.number(),
          wait: z.number(),
          waitSeconds: z.number().nullable(),
        }),
      )
      .describe('What one, two and three lines would do if they were dialed without looking who is free'),
  }),
})
export type LinesReport = z.infer<typeof linesReport.response>
