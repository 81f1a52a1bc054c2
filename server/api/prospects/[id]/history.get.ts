import { prospectHistory } from '#shared/api/events/history'
import { answer } from '../../../http/answer'
import { history } from '../../../services/activity/history'

export default answer(prospectHistory, async ({ viewer, params, query }) => ({
  entries: await history(viewer, params.id, query.limit),
}))
