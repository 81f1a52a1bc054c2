import { workBlock } from '#shared/api/blocks/work'
import { answer } from '../../../http/answer'
import { workBlock as work } from '../../../services/blocks/work'

export default answer(workBlock, ({ viewer, params, body }) => work(viewer, params.id, body))
