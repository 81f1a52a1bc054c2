import { closeDeal } from '#shared/api/deals'
import { answer } from '../../../http/answer'
import { closeDeal as work } from '../../../services/deals/deals'

export default answer(closeDeal, ({ viewer, params, body }) => work(viewer, params.id, body))
