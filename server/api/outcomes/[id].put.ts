import { editOutcome } from '#shared/api/settings'
import { answer } from '../../http/answer'
import { editOutcome as edit } from '../../services/settings'

export default answer(editOutcome, ({ params, body }) => edit(params.id, body))
