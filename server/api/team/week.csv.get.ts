import { setResponseHeader } from 'h3'
import { weekCsv } from '#shared/api/team'
import { answer } from '../../http/answer'
import { weekCsv as work } from '../../services/team/teamWeek'

export default answer(weekCsv, async ({ viewer, query, event }) => {
  const csv = await work(viewer, query)
  setResponseHeader(event, 'content-type', 'text/csv; charset=utf-8')
  setResponseHeader(event, 'content-disposition', 'attachment; filename="week.csv"')
  return csv
})
