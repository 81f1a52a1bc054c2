import { closeBlock } from '#shared/api/blocks/blocks'
import { answer } from '../../../http/answer'
import { closeBlock as work } from '../../../services/blocks/editBlock'

export default answer(closeBlock, ({ viewer, params, body }) => work(viewer, params.id, body.closed))
