import { addOutcome } from '#shared/api/settings/outcomes'
import { answer } from '../../http/answer'
import { addOutcome as add } from '../../services/settings/outcomes'

export default answer(addOutcome, ({ body }) => add(body))
