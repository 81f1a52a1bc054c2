import { listOutcomes } from '#shared/api/settings'
import { answer } from '../../http/answer'
import { listOutcomes as list } from '../../services/settings'

export default answer(listOutcomes, () => list())
