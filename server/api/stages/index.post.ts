import { addStage } from '#shared/api/settings/stages'
import { answer } from '../../http/answer'
import { addStage as work } from '../../services/settings/stages'

export default answer(addStage, ({ body }) => work(body))
