import { z } from 'zod'
import { EMAIL_ADDRESS_STATUSES, valuesOf } from '../enumerations'
import { happens, moment, ref } from './define'

/** Email written, sent, failed, answered. */
export const emailEvents = {
  emailWritten: happens('Email written', {
    messageId: ref,
    taskId: ref.nullable(),
    many: z.strictObject({ sendAt: moment }).optional(),
  }),
  emailSent: happens('Email sent', { messageId: ref }, { knot: 'email' }),
  emailOpened: happens('Email opened', { messageId: ref }),
  emailClicked: happens('Link clicked', { messageId: ref }),
  emailFailed: happens('Email could not be sent', { messageId: ref, permanent: z.boolean() }),
  emailHeld: happens('Email held back', { messageId: ref }),
  emailStopped: happens('Email stopped before it left', { messageId: ref }, { redact: { why: 'ownRow' } }),
  emailUnconfirmed: happens('Email may have gone out', { messageId: ref }),
  emailSettled: happens('Email settled', { messageId: ref, wentOut: z.boolean() }),
  emailBounced: happens('Email bounced', { messageId: ref }),
  emailReplied: happens('Replied by email', { messageId: ref.nullable() }, { knot: 'reply' }),
  unsubscribed: happens('Unsubscribed'),
  addressStatusSet: happens('Email address edited', {
    emailAddressId: ref,
    to: z.enum(valuesOf(EMAIL_ADDRESS_STATUSES)),
  }),
}
