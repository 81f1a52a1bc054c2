import { Readable } from 'node:stream'
import { sendStream, setResponseHeader } from 'h3'
import { exportProspects } from '#shared/api/lists'
import { answer } from '../../http/answer'
import { exportPeople } from '../../services/exports'

export default answer(exportProspects, async ({ viewer, query, event }) => {
  const pieces = await exportPeople(viewer, query)
  setResponseHeader(event, 'content-type', query.format === 'csv' ? 'text/csv; charset=utf-8' : 'application/json; charset=utf-8')
  setResponseHeader(event, 'content-disposition', `attachment; filename="people.${query.format}"`)
  return sendStream(event, Readable.from(pieces))
})
