import { z } from 'zod'
import { CHANNELS, valuesOf } from '../../enumerations'
import { setStop } from '../../engine/moves/stopProspect'
import { actionSchema, defineAction } from '../kind/define'

const WORDS = { call: 'Do not call', email: 'Do not email', all: 'Do not contact' } as const

/** The prospect is not called, emailed or contacted any more. */
export const stop = defineAction({
  type: 'stop',
  label: 'Stop contacting',
  schema: actionSchema('stop', { channel: z.enum(valuesOf(CHANNELS)) }),
  mayWait: false,
  apply({ context, prospect, cause }, { channel }) {
    setStop(context, prospect, channel, true, cause)
  },
  describe: ({ channel }) => WORDS[channel],
})
