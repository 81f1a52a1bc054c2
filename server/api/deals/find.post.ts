import { findDeals } from '#shared/api/deals'
import { answer } from '../../http/answer'
import { findDeals as work } from '../../services/deals/deals'

export default answer(findDeals, ({ viewer, body }) => work(viewer, body))
