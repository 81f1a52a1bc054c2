import { finishTask } from '#shared/api/desk/desk'
import { answer } from '../../../http/answer'
import { finishTask as finish } from '../../../services/desk/tasks'

export default answer(finishTask, ({ viewer, params, body }) => finish(viewer, params.id, body))
