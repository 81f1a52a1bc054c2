import { editLineOutcomes } from '#shared/api/settings/lineOutcomes'
import { answer } from '../../http/answer'
import { editLineOutcomes as edit } from '../../services/lines/lineOutcomes'

export default answer(editLineOutcomes, ({ body }) => edit(body))
