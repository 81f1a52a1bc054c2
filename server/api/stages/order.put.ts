import { orderStages } from '#shared/api/settings/stages'
import { answer } from '../../http/answer'
import { orderStages as work } from '../../services/settings/stages'

export default answer(orderStages, ({ body }) => work(body.ids))
