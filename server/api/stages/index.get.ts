import { stages } from '#shared/api/stages'
import { answer } from '../../http/answer'
import { listStages } from '../../services/stages'

export default answer(stages, () => listStages())
