import { orderStages } from '#shared/api/stages'
import { answer } from '../../http/answer'
import { orderStages as work } from '../../services/stages'

export default answer(orderStages, ({ body }) => work(body.ids))
