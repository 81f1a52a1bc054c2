import { editDeal } from '#shared/api/deals'
import { answer } from '../../http/answer'
import { editDeal as work } from '../../services/deals/deals'

export default answer(editDeal, ({ viewer, params, body }) => work(viewer, params.id, body))
