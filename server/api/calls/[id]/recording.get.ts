import { setResponseHeaders } from 'h3'
import { getRecording } from '#shared/api/settings/recording'
import { answer } from '../../../http/answer'
import { recordingOf } from '../../../services/recordings/recordings'

export default answer(getRecording, async ({ viewer, params, event }) => {
  const { mediaType, content } = await recordingOf(viewer, params.id)
  setResponseHeaders(event, { 'content-type': mediaType, 'cache-control': 'private, no-store' })
  return content
})
