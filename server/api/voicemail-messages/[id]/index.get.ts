import { setResponseHeaders } from 'h3'
import { getVoicemailMessage } from '#shared/api/desk/voicemail'
import { answer } from '../../../http/answer'
import { messageWithContent } from '../../../services/voicemail/messages'

export default answer(getVoicemailMessage, async ({ viewer, params, event }) => {
  const { mediaType, content } = await messageWithContent(viewer, params.id)
  setResponseHeaders(event, { 'content-type': mediaType, 'cache-control': 'private, max-age=3600' })
  return content
})
