import { setResponseHeader } from 'h3'
import { blockCsv } from '#shared/api/blocks/blocks'
import { answer } from '../../../http/answer'
import { blockCsv as work } from '../../../services/blocks/blocks'

export default answer(blockCsv, async ({ viewer, params, event }) => {
  const csv = await work(viewer, params.id)
  setResponseHeader(event, 'content-type', 'text/csv; charset=utf-8')
  setResponseHeader(event, 'content-disposition', 'attachment; filename="call-block.csv"')
  return csv
})
