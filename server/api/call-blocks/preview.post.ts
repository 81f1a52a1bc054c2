import { previewBlock } from '#shared/api/blocks/blocks'
import { answer } from '../../http/answer'
import { previewBlock as work } from '../../services/blocks/editBlock'

export default answer(previewBlock, ({ viewer, body }) => work(viewer, body))
