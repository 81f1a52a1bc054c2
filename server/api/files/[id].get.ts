import { setResponseHeaders } from 'h3'
import { getFile } from '#shared/api/email/files'
import { answer } from '../../http/answer'
import { getFile as read } from '../../services/templates/files'

export default answer(getFile, async ({ params, event }) => {
  const { name, mediaType, content } = await read(params.id)
  const shown = mediaType.startsWith('image/') ? 'inline' : 'attachment'
  setResponseHeaders(event, {
    'content-type': mediaType,
    'content-disposition': `${shown}; filename*=UTF-8''${encodeURIComponent(name)}`,
    'cache-control': 'private, max-age=86400',
  })
  return content
})
