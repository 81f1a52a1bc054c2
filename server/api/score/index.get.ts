import { getScore } from '#shared/api/settings/settings'
import { answer } from '../../http/answer'
import { getScore as work } from '../../services/fields/score'

export default answer(getScore, () => work())
