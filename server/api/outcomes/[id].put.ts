import { editOutcome } from '#shared/api/settings/settings'
import { answer } from '../../http/answer'
import { editOutcome as edit } from '../../services/settings/settings'

export default answer(editOutcome, ({ params, body }) => edit(params.id, body))
