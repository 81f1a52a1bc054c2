import { z } from 'zod'
import { endpoint, instant, withId } from '../endpoint'

const share = z.number().min(0).max(1)
/** An hour of the week by the clock of the person called: 1 is Monday (ISO 8601). */
const weekHour = z.object({ weekday: z.number().int().min(1).max(7), hour: z.number().int().min(0).max(23) })
const hourChance = weekHour.extend({
  chance: share.describe('How likely they are to be spoken to when they are called in it'),
  low: share.describe('With `high`: where the chance lies with 95 %'),
  high: share,
})
const numbers = z.object({ calls: z.number(), reached: z.number() })

export const bestTime = endpoint({
  method: 'get',
  path: '/api/prospects/{id}/best-time',
  callers: true,
  summary: 'When to call someone, hour by hour of their week, learned from the team’s calls',
  params: withId,
  response: z.object({
    learned: z
      .object({
        hours: z.array(hourChance).describe('Every hour of the week in which they may be called'),
        best: z
          .array(hourChance.extend({ next: instant.nullable().describe('When it comes next') }))
          .describe('The best hours, the best first; none where no hour stands out'),
        now: weekHour.extend({ chance: share }),
        timeZone: z.string(),
        own: numbers.describe('Calls to them in the last year'),
        kind: numbers.extend({ name: z.string() }).nullable().describe('Calls to companies of their industry'),
        team: numbers.describe('All calls of the team'),
      })
      .nullable()
      .describe('null before the first call'),
  }),
})
export const teamBestTime = endpoint({
  method: 'get',
  path: '/api/team/best-time',
  summary: 'When people answer, hour by hour of their week, for all companies or those of one industry',
  query: z.object({ industry: z.string().max(300).optional() }),
  response: z.object({
    map: numbers.extend({ hours: z.array(hourChance), best: z.array(hourChance) }).nullable(),
    kinds: z.array(numbers.extend({ name: z.string() })).describe('Industries that were called, in lower case'),
  }),
})
