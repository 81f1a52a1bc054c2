import { removeFromBlock } from '#shared/api/blocks/blocks'
import { answer } from '../../../http/answer'
import { removeFromBlock as work } from '../../../services/blocks/editBlock'

export default answer(removeFromBlock, ({ viewer, params, body }) => work(viewer, params.id, body.prospectIds))
