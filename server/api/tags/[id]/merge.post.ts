import { mergeTag } from '#shared/api/fields'
import { answer } from '../../../http/answer'
import { mergeTag as work } from '../../../services/tags'

export default answer(mergeTag, ({ params, body }) => work(params.id, body.into))
