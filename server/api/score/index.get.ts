import { getScore } from '#shared/api/settings'
import { answer } from '../../http/answer'
import { getScore as work } from '../../services/score'

export default answer(getScore, () => work())
