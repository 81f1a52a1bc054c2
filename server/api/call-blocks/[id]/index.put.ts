import { editBlock } from '#shared/api/blocks/blocks'
import { answer } from '../../../http/answer'
import { editBlock as work } from '../../../services/blocks/editBlock'

export default answer(editBlock, ({ viewer, params, body }) => work(viewer, params.id, body))
