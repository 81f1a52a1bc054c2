import { removeTag } from '#shared/api/settings/fields'
import { answer } from '../../../http/answer'
import { removeTag as work } from '../../../services/fields/tags'

export default answer(removeTag, ({ params }) => work(params.id))
