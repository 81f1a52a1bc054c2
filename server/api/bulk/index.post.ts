import { startBulk } from '#shared/api/bulk'
import { answer } from '../../http/answer'
import { startBulk as work } from '../../services/bulk/bulk'

export default answer(startBulk, ({ viewer, body }) => work(viewer, body))
