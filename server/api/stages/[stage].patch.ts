import { editStage as endpoint } from '#shared/api/settings/stages'
import { answer } from '../../http/answer'
import { editStage } from '../../services/settings/stages'

export default answer(endpoint, ({ params, body }) => editStage(params.stage, body))
