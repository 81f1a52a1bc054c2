import { addTag } from '#shared/api/settings/fields'
import { answer } from '../../http/answer'
import { addTag as work } from '../../services/fields/tags'

export default answer(addTag, ({ body }) => work(body.name))
