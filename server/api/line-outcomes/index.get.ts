import { getLineOutcomes } from '#shared/api/settings/lineOutcomes'
import { answer } from '../../http/answer'
import { getLineOutcomes as read } from '../../services/lines/lineOutcomes'

export default answer(getLineOutcomes, () => read())
