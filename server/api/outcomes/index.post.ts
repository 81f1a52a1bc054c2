import { addOutcome } from '#shared/api/settings'
import { answer } from '../../http/answer'
import { addOutcome as add } from '../../services/settings'

export default answer(addOutcome, ({ body }) => add(body))
