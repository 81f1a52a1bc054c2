import { z } from 'zod'
import { TEXT_CONSENTS, valuesOf } from '../enumerations'
import { happens, ref } from './define'

/** Text messages: sent, answered, not delivered, and whether they are wanted. */
export const textEvents = {
  textWritten: happens(
    'Text sent',
    { messageId: ref, phoneId: ref, taskId: ref.nullable(), agreed: z.boolean() },
    { knot: 'email' },
  ),
  textReceived: happens('Replied by text', { messageId: ref, phoneId: ref }, { knot: 'reply' }),
  textFailed: happens('Text not delivered', { messageId: ref, senderId: ref.nullable() }),
  textConsentSet: happens('Texts', { phoneId: ref, to: z.enum(valuesOf(TEXT_CONSENTS)) }),
}
