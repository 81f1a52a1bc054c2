import { editField } from '#shared/api/settings/fields'
import { answer } from '../../http/answer'
import { editField as work } from '../../services/fields/customFields'

export default answer(editField, ({ params, body }) => work(params.id, body))
