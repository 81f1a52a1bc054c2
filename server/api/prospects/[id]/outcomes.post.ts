import { logOutcome } from '#shared/api/desk/desk'
import { answerInOneGo } from '../../../http/answer'
import { logOutcome as log } from '../../../services/desk/outcomes'

export default answerInOneGo(logOutcome, ({ viewer, params, body }) => log(viewer, params.id, body))
