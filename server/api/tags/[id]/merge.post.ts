import { mergeTag } from '#shared/api/settings/fields'
import { answer } from '../../../http/answer'
import { mergeTag as work } from '../../../services/fields/tags'

export default answer(mergeTag, ({ params, body }) => work(params.id, body.into))
