import { companyHistory } from '#shared/api/events/history'
import { answer } from '../../../http/answer'
import { companyHistory as work } from '../../../services/activity/recordHistory'

export default answer(companyHistory, async ({ viewer, params, query }) => ({
  entries: await work(viewer, params.id, query.limit),
}))
