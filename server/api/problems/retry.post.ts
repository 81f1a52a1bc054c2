import { retryProblem } from '#shared/api/problems'
import { answer } from '../../http/answer'
import { retryProblem as run } from '../../services/system/problems'

export default answer(retryProblem, ({ body }) => run(body))
