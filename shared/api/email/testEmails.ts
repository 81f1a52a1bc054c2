import { z } from 'zod'
import { emailFormatting } from '../emailText'
import { endpoint, id, instant, required, withId } from '../endpoint'

export const sendTestEmail = endpoint({
  method: 'post',
  path: '/api/test-emails',
  summary: 'Send yourself an email as a prospect would get it',
  body: z.object({ id, subject: required(300), body: required(50_000), ...emailFormatting, prospectId: id }),
  response: z.object({ id, to: z.string() }),
})
export const startRoundTrip = endpoint({
  method: 'post',
  path: '/api/test-emails/round-trip',
  summary: 'Send a test email that comes back: it shows that email out and in work',
  access: 'manager',
  body: z.object({ id }),
  response: z.object({ id }),
})
export const getTestEmail = endpoint({
  method: 'get',
  path: '/api/test-emails/{id}',
  summary: 'Whether a test email was sent, and whether it came back',
  params: withId,
  response: z.object({ sentAt: instant.nullable(), returnedAt: instant.nullable(), error: z.string().nullable() }),
})
