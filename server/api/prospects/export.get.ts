import { Readable } from 'node:stream'
import { sendStream, setResponseHeader } from 'h3'
import { exportProspects } from '#shared/api/lists'
import { answer } from '../../http/answer'
import { exportPeople } from '../../services/lists/exports'

const TYPES = {
  csv: 'text/csv; charset=utf-8',
  json: 'application/json; charset=utf-8',
  vcard: 'text/vcard; charset=utf-8',
}

export default answer(exportProspects, async ({ viewer, query, event }) => {
  const pieces = await exportPeople(viewer, query)
  setResponseHeader(event, 'content-type', TYPES[query.format])
  setResponseHeader(
    event,
    'content-disposition',
    `attachment; filename="people.${query.format === 'vcard' ? 'vcf' : query.format}"`,
  )
  return sendStream(event, Readable.from(pieces))
})
