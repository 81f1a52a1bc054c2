import { getBlock } from '#shared/api/blocks/blocks'
import { answer } from '../../../http/answer'
import { getBlock as work } from '../../../services/blocks/blocks'

export default answer(getBlock, ({ viewer, params }) => work(viewer, params.id))
