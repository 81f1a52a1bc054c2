import { undo } from '#shared/api/events/history'
import { answer } from '../../../http/answer'
import { undo as takeBack } from '../../../services/activity/history'

export default answer(undo, ({ viewer, params, body }) => takeBack(viewer, body.id, params.id))
