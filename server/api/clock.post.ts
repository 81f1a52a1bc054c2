import { moveClock } from '#shared/api/session'
import { answer } from '../http/answer'
import { moveClock as move } from '../services/system/clock'

export default answer(moveClock, ({ body }) => move(body.by))
