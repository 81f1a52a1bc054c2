import { uploadFile } from '#shared/api/email/files'
import { answer } from '../../http/answer'
import { uploadFile as take } from '../../services/templates/files'

export default answer(uploadFile, ({ viewer, query, event }) => take(viewer, query.name, event.node.req), {
  raw: true,
})
