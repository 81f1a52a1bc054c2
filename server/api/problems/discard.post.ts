import { discardProblem } from '#shared/api/problems'
import { answer } from '../../http/answer'
import { discardProblem as run } from '../../services/system/problems'

export default answer(discardProblem, ({ viewer, body }) => run(viewer, body))
