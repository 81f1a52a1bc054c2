import { uploadImport } from '#shared/api/imports'
import { answer } from '../../http/answer'
import { uploadImport as take } from '../../services/imports/imports'

export default answer(uploadImport, ({ viewer, query, event }) => take(viewer, query.name, event.node.req), {
  raw: true,
})
