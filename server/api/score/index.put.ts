import { editScore } from '#shared/api/settings'
import { answer } from '../../http/answer'
import { editScore as work } from '../../services/score'

export default answer(editScore, ({ body }) => work(body))
