import { editField } from '#shared/api/fields'
import { answer } from '../../http/answer'
import { editField as work } from '../../services/customFields'

export default answer(editField, ({ params, body }) => work(params.id, body))
