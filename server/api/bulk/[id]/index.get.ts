import { getBulk } from '#shared/api/bulk'
import { answer } from '../../../http/answer'
import { getBulk as work } from '../../../services/bulk/bulk'

export default answer(getBulk, ({ viewer, params }) => work(viewer, params.id))
