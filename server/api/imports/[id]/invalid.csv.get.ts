import { Readable } from 'node:stream'
import { sendStream, setResponseHeader } from 'h3'
import { invalidRows } from '#shared/api/imports'
import { answer } from '../../../http/answer'
import { getImport, invalidRows as read } from '../../../services/imports/imports'

export default answer(invalidRows, async ({ viewer, params, event }) => {
  const found = await getImport(viewer, params.id)
  setResponseHeader(event, 'content-type', 'text/csv; charset=utf-8')
  setResponseHeader(
    event,
    'content-disposition',
    `attachment; filename*=UTF-8''${encodeURIComponent(`invalid rows of ${found.fileName}`)}`,
  )
  return sendStream(event, Readable.from(read(viewer, params.id)))
})
