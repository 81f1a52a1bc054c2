import { editScore } from '#shared/api/settings/settings'
import { answer } from '../../http/answer'
import { editScore as work } from '../../services/fields/score'

export default answer(editScore, ({ body }) => work(body))
