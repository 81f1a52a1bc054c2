import { editOutcome } from '#shared/api/settings/outcomes'
import { answer } from '../../http/answer'
import { editOutcome as edit } from '../../services/settings/outcomes'

export default answer(editOutcome, ({ params, body }) => edit(params.id, body))
