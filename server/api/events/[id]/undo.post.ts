import { undo } from '#shared/api/prospects'
import { answer } from '../../../http/answer'
import { undo as takeBack } from '../../../services/history'

export default answer(undo, ({ viewer, params, body }) => takeBack(viewer, body.id, params.id))
