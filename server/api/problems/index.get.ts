import { listProblems } from '#shared/api/problems'
import { answer } from '../../http/answer'
import { listProblems as run } from '../../services/system/problems'

export default answer(listProblems, ({ viewer }) => run(viewer))
