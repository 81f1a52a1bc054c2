import { dealHistory } from '#shared/api/events/history'
import { answer } from '../../../http/answer'
import { dealHistory as work } from '../../../services/activity/recordHistory'

export default answer(dealHistory, async ({ viewer, params, query }) => ({
  entries: await work(viewer, params.id, query.limit),
}))
