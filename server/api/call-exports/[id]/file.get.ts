import { setResponseHeader } from 'h3'
import { exportFile } from '#shared/api/blocks/otherDialers'
import { answer } from '../../../http/answer'
import { exportFile as write } from '../../../services/otherDialers/exports'

export default answer(exportFile, async ({ viewer, params, query, event }) => {
  const file = await write(viewer, params.id, query.format)
  const type = query.format === 'csv' ? 'text/csv' : 'application/json'
  setResponseHeader(event, 'content-type', `${type}; charset=utf-8`)
  setResponseHeader(event, 'content-disposition', `attachment; filename="calls.${query.format}"`)
  return file
})
