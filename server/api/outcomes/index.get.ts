import { listOutcomes } from '#shared/api/settings/settings'
import { answer } from '../../http/answer'
import { listOutcomes as list } from '../../services/settings/settings'

export default answer(listOutcomes, () => list())
