import { listBlocks } from '#shared/api/blocks/blocks'
import { answer } from '../../http/answer'
import { listBlocks as work } from '../../services/blocks/blocks'

export default answer(listBlocks, ({ viewer, query }) => work(viewer, query.closed === 'yes'))
