import { health } from '#shared/api/session'
import { answer } from '../http/answer'
import { health as read } from '../services/health'

export default answer(health, () => read())
