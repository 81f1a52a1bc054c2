import { cancelScheduledAction } from '#shared/api/events/history'
import { answer } from '../../../http/answer'
import { cancelDelayedAction } from '../../../services/prospects/delayedActions'

export default answer(cancelScheduledAction, ({ viewer, params, body }) =>
  cancelDelayedAction(viewer, body.id, params.id),
)
