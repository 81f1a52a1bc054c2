import { editStage as endpoint } from '#shared/api/stages'
import { answer } from '../../http/answer'
import { editStage } from '../../services/stages'

export default answer(endpoint, ({ params, body }) => editStage(params.stage, body))
