import { addTag } from '#shared/api/fields'
import { answer } from '../../http/answer'
import { addTag as work } from '../../services/tags'

export default answer(addTag, ({ body }) => work(body.name))
