import { skipInBlock } from '#shared/api/blocks/work'
import { answer } from '../../../http/answer'
import { skipInBlock as work } from '../../../services/blocks/work'

export default answer(skipInBlock, ({ viewer, params, body }) => work(viewer, params.id, body.prospectId, body.why))
