import { z } from 'zod'
import { queueAnswer } from '../desk/queue'
import { endpoint, id, required, withId } from '../endpoint'

/* What the Desk asks of a call block: apart from what makes one, so that a Desk loads no more than it needs. */
export const workBlock = endpoint({
  method: 'post',
  path: '/api/call-blocks/{id}/work',
  callers: true,
  summary: 'Who is next for the caller: nobody else gets them; the time runs until it is paused',
  params: withId,
  body: z.object({
    paused: z.boolean().default(false),
    first: id.nullable().default(null).describe('Who is wanted first, if nobody else has them'),
  }),
  response: queueAnswer,
})
export const skipInBlock = endpoint({
  method: 'post',
  path: '/api/call-blocks/{id}/skip',
  callers: true,
  summary: 'Skip someone who is in hand, or put them back',
  params: withId,
  body: z.object({ prospectId: id, why: required(200).nullable().describe('null: put them back') }),
})
export const blockChanges = endpoint({
  method: 'get',
  path: '/api/call-blocks/{id}/changes',
  callers: true,
  summary: 'Server-sent events: a number at the start and whenever the block has changed',
  params: withId,
  response: z.unknown().describe('text/event-stream'),
})
export const nextPass = endpoint({
  method: 'post',
  path: '/api/call-blocks/{id}/pass',
  callers: true,
  summary: 'Begin the next pass: everyone who was not reached is called again',
  params: withId,
  body: z.object({ pass: z.number().int().min(2).max(9).describe('Which one; begun twice it is one') }),
  response: z.object({ pass: z.number(), open: z.number() }),
})
