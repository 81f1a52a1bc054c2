import { removeField } from '#shared/api/settings/fields'
import { answer } from '../../http/answer'
import { removeField as work } from '../../services/fields/customFields'

export default answer(removeField, ({ params }) => work(params.id))
