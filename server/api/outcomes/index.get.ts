import { listOutcomes } from '#shared/api/settings/outcomes'
import { answer } from '../../http/answer'
import { listOutcomes as list } from '../../services/settings/outcomes'

export default answer(listOutcomes, () => list())
