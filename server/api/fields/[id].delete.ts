import { removeField } from '#shared/api/fields'
import { answer } from '../../http/answer'
import { removeField as work } from '../../services/customFields'

export default answer(removeField, ({ params }) => work(params.id))
