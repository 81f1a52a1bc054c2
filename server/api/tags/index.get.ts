import { listTags } from '#shared/api/fields'
import { answer } from '../../http/answer'
import { listTags as work } from '../../services/tags'

export default answer(listTags, ({ viewer }) => work(viewer))
