import { listBulk } from '#shared/api/bulk'
import { answer } from '../../http/answer'
import { listBulk as work } from '../../services/bulk/bulk'

export default answer(listBulk, ({ viewer }) => work(viewer))
