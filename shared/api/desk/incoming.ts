import { z } from 'zod'
import { INCOMING_CALL_STATUSES, valuesOf } from '#core/enumerations'
import { endpoint, id, instant, withId } from '../endpoint'

/** Calls that come in over the exchange. */

export const listIncomingCalls = endpoint({
  method: 'get',
  path: '/api/incoming-calls',
  callers: true,
  summary: 'Calls that ring for the viewer, that they answered and have not logged, and missed ones of unknown numbers',
  response: z.object({
    calls: z.array(
      z.object({
        id,
        number: z.string().describe('E.164'),
        shown: z.string(),
        status: z.enum(valuesOf(INCOMING_CALL_STATUSES)),
        forEveryone: z.boolean().describe('Whether it rings for every user: nobody here has the number'),
        at: instant.describe('When it rang or, once answered, was answered'),
        since: instant.describe('The same moment by the machine’s clock, for a stopwatch'),
        people: z
          .array(z.object({ id, name: z.string(), company: z.string().nullable() }))
          .describe('Who has the number, the one who was called on it last first'),
      }),
    ),
  }),
})
export type IncomingCall = z.output<typeof listIncomingCalls.response>['calls'][number]

export const answerIncomingCall = endpoint({
  method: 'post',
  path: '/api/incoming-calls/{id}/answer',
  callers: true,
  summary: 'Answer a call that rings',
  params: withId,
})
export const endIncomingCall = endpoint({
  method: 'post',
  path: '/api/incoming-calls/{id}/hang-up',
  callers: true,
  summary: 'End a call that was answered, or decline one that rings',
  params: withId,
})
export const markIncomingCallSeen = endpoint({
  method: 'post',
  path: '/api/incoming-calls/{id}/seen',
  callers: true,
  summary:
    'Take a call that is over off the screen: one that is not to be logged, or a missed one of an unknown number',
  params: withId,
})
