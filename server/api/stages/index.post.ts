import { addStage } from '#shared/api/stages'
import { answer } from '../../http/answer'
import { addStage as work } from '../../services/stages'

export default answer(addStage, ({ body }) => work(body))
