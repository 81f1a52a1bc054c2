import { sayWhen } from '#shared/api/desk/desk'
import { answer } from '../http/answer'
import { sayWhen as say } from '../services/desk/when'

export default answer(sayWhen, ({ viewer, body }) => say(viewer, body))
