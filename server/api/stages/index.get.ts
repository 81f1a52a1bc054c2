import { stages } from '#shared/api/settings/stages'
import { answer } from '../../http/answer'
import { listStages } from '../../services/settings/stages'

export default answer(stages, () => listStages())
