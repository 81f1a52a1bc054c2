import { formHistory } from '#shared/api/events/history'
import { answer } from '../../../http/answer'
import { formHistory as work } from '../../../services/activity/recordHistory'

export default answer(formHistory, async ({ params, viewer, query }) => ({
  entries: await work(viewer, params.id, query.limit),
}))
