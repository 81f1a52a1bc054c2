import { removeTag } from '#shared/api/fields'
import { answer } from '../../../http/answer'
import { removeTag as work } from '../../../services/tags'

export default answer(removeTag, ({ params }) => work(params.id))
