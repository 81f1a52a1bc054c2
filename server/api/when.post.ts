import { sayWhen } from '#shared/api/desk'
import { answer } from '../http/answer'
import { sayWhen as say } from '../services/desk/when'

export default answer(sayWhen, ({ viewer, body }) => say(viewer, body))
