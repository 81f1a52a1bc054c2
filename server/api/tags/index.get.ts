import { listTags } from '#shared/api/settings/fields'
import { answer } from '../../http/answer'
import { listTags as work } from '../../services/fields/tags'

export default answer(listTags, ({ viewer }) => work(viewer))
