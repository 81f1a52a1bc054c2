import { renameTag } from '#shared/api/settings/fields'
import { answer } from '../../../http/answer'
import { renameTag as work } from '../../../services/fields/tags'

export default answer(renameTag, ({ params, body }) => work(params.id, body.name))
