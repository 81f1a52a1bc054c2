import { stages } from '#shared/api/prospects'
import { answer } from '../http/answer'
import { listStages } from '../services/prospects'

export default answer(stages, () => listStages())
