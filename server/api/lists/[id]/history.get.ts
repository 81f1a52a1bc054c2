import { listHistory } from '#shared/api/events/history'
import { answer } from '../../../http/answer'
import { listHistory as work } from '../../../services/activity/recordHistory'

export default answer(listHistory, async ({ viewer, params, query }) => ({
  entries: await work(viewer, params.id, query.limit),
}))
