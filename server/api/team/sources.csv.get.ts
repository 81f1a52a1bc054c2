import { setResponseHeader } from 'h3'
import { sourcesCsv } from '#shared/api/team'
import { answer } from '../../http/answer'
import { sourcesCsv as work } from '../../services/team/teamWeek'

export default answer(sourcesCsv, async ({ event }) => {
  const csv = await work()
  setResponseHeader(event, 'content-type', 'text/csv; charset=utf-8')
  setResponseHeader(event, 'content-disposition', 'attachment; filename="sources.csv"')
  return csv
})
