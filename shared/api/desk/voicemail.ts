import { z } from 'zod'
import { AUDIO_TYPES, valuesOf } from '#core/enumerations'
import { endpoint, id, required, withId } from '../endpoint'

/** The messages that users leave in voicemail boxes. */
const messageSchema = z.object({
  id,
  name: z.string(),
  seconds: z.number(),
  mediaType: z.enum(valuesOf(AUDIO_TYPES)),
})
export type VoicemailMessage = z.infer<typeof messageSchema>

export const listVoicemailMessages = endpoint({
  method: 'get',
  path: '/api/voicemail-messages',
  callers: true,
  summary: 'The viewer’s voicemail messages; the first is the one that is left by the key',
  response: z.object({ messages: z.array(messageSchema) }),
})
export const addVoicemailMessage = endpoint({
  method: 'post',
  path: '/api/voicemail-messages',
  callers: true,
  summary: 'Add a voicemail message; its bytes are the body of the request: WAV or OGG, at most 60 seconds',
  query: z.object({ name: required(60) }),
  response: messageSchema,
})
export const editVoicemailMessage = endpoint({
  method: 'patch',
  path: '/api/voicemail-messages/{id}',
  callers: true,
  summary: 'Rename a voicemail message, or put it first',
  params: withId,
  body: z.object({ name: required(60).optional(), first: z.literal(true).optional() }),
})
export const removeVoicemailMessage = endpoint({
  method: 'delete',
  path: '/api/voicemail-messages/{id}',
  callers: true,
  summary: 'Delete a voicemail message',
  params: withId,
})
export const getVoicemailMessage = endpoint({
  method: 'get',
  path: '/api/voicemail-messages/{id}',
  callers: true,
  summary: 'What a voicemail message sounds like',
  params: withId,
  response: z.unknown().describe('Its bytes, as its media type'),
})
export const leaveVoicemail = endpoint({
  method: 'post',
  path: '/api/calls/{id}/voicemail',
  callers: true,
  summary: 'Leave a message in the voicemail box that has answered; it plays to its end by itself',
  params: withId,
  body: z.object({ messageId: id.nullable().default(null).describe('null: the first') }),
  response: z.object({ name: z.string(), seconds: z.number() }),
})
