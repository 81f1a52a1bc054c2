import { addToBlock } from '#shared/api/blocks/blocks'
import { answer } from '../../../http/answer'
import { addToBlock as work } from '../../../services/blocks/editBlock'

export default answer(addToBlock, ({ viewer, params, body }) => work(viewer, params.id, body))
