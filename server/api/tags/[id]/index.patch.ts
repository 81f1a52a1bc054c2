import { renameTag } from '#shared/api/fields'
import { answer } from '../../../http/answer'
import { renameTag as work } from '../../../services/tags'

export default answer(renameTag, ({ params, body }) => work(params.id, body.name))
