import { saveSource } from '#shared/api/settings/settings'
import { answer } from '../../http/answer'
import { saveSource as work } from '../../services/fields/sources'

export default answer(saveSource, ({ params, body }) => work(params.name, body))
