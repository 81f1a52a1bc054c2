import { setTags } from '#shared/api/settings/fields'
import { answer } from '../../../http/answer'
import { setTags as work } from '../../../services/fields/tags'

export default answer(setTags, ({ viewer, params, body }) => work(viewer, params.id, body.add, body.remove))
