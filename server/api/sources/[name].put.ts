import { saveSource } from '#shared/api/settings'
import { answer } from '../../http/answer'
import { saveSource as work } from '../../services/sources'

export default answer(saveSource, ({ params, body }) => work(params.name, body))
