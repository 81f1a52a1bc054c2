import { z } from 'zod'
import { endpoint, id } from '../endpoint'

const lineOutcomes = z.object({
  no_answer: id.nullable(),
  busy: id.nullable(),
  rejected: id.nullable(),
  voicemail: id.nullable().describe('A voicemail box that got no message'),
  message_left: id.nullable(),
  not_in_service: id.nullable(),
})
export const getLineOutcomes = endpoint({
  method: 'get',
  path: '/api/line-outcomes',
  summary: 'The outcome that is logged by itself where a call of several lines ends without a person',
  response: lineOutcomes,
})
export const editLineOutcomes = endpoint({
  method: 'put',
  path: '/api/line-outcomes',
  summary: 'Change which outcome is logged by itself for what the dialer finds out',
  access: 'manager',
  body: lineOutcomes,
})
