import { bestTime } from '#shared/api/desk/bestTime'
import { answer } from '../../../http/answer'
import { bestTimeOf } from '../../../services/bestTime/bestTimes'

export default answer(bestTime, ({ viewer, params }) => bestTimeOf(viewer, params.id))
