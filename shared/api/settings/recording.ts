import { z } from 'zod'
import { endpoint, withId } from '../endpoint'

const recordingSettings = z.object({
  recordsCalls: z.boolean().describe('Whether calls over the exchange are recorded, which is announced at their start'),
  keptDays: z
    .number('Enter a whole number of days')
    .int('Enter a whole number of days')
    .min(1, 'At least 1 day')
    .max(730, 'At most 730 days')
    .describe('For how many days a recording is kept'),
})
export const getRecordingSettings = endpoint({
  method: 'get',
  path: '/api/recording-settings',
  summary: 'Whether calls are recorded, and for how long recordings are kept',
  response: recordingSettings.extend({ count: z.number().describe('How many recordings are kept now') }),
})
export const editRecordingSettings = endpoint({
  method: 'put',
  path: '/api/recording-settings',
  summary: 'Turn the recording of calls on or off; what is kept already is kept as long as this says',
  access: 'manager',
  body: recordingSettings,
})
export const stopRecording = endpoint({
  method: 'post',
  path: '/api/calls/{id}/stop-recording',
  callers: true,
  summary: 'Stop the recording of a call, because the other side does not want it; nothing of it is kept',
  params: withId,
})
export const getRecording = endpoint({
  method: 'get',
  path: '/api/calls/{id}/recording',
  callers: true,
  summary: 'The recording of a call',
  params: withId,
  response: z.unknown().describe('Its bytes, as its media type'),
})
