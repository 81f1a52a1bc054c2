import { orderOutcomes } from '#shared/api/settings/outcomes'
import { answer } from '../../http/answer'
import { orderOutcomes as order } from '../../services/settings/outcomes'

export default answer(orderOutcomes, ({ body }) => order(body.ids))
