import { logOutcome } from '#shared/api/desk'
import { answer } from '../../../http/answer'
import { logOutcome as log } from '../../../services/outcomes'

export default answer(logOutcome, ({ viewer, params, body }) => log(viewer, params.id, body))
