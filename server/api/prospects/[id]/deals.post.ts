import { openDeal } from '#shared/api/deals'
import { answer } from '../../../http/answer'
import { openDeal as work } from '../../../services/deals/deals'

export default answer(openDeal, ({ viewer, params, body }) => work(viewer, params.id, body))
