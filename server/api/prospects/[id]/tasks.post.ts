import { planTask } from '#shared/api/desk/desk'
import { answer } from '../../../http/answer'
import { planTask as work } from '../../../services/desk/tasks'

export default answer(planTask, ({ viewer, params, body }) => work(viewer, params.id, body))
