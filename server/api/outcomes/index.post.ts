import { addOutcome } from '#shared/api/settings/settings'
import { answer } from '../../http/answer'
import { addOutcome as add } from '../../services/settings/settings'

export default answer(addOutcome, ({ body }) => add(body))
