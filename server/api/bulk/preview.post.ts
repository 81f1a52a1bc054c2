import { previewBulk } from '#shared/api/bulk'
import { answer } from '../../http/answer'
import { previewBulk as work } from '../../services/bulk/bulk'

export default answer(previewBulk, ({ viewer, body }) => work(viewer, body))
