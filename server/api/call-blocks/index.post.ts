import { addBlock } from '#shared/api/blocks/blocks'
import { answer } from '../../http/answer'
import { addBlock as work } from '../../services/blocks/editBlock'

export default answer(addBlock, ({ viewer, body }) => work(viewer, body))
