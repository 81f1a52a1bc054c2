import { addField } from '#shared/api/fields'
import { answer } from '../../http/answer'
import { addField as work } from '../../services/customFields'

export default answer(addField, ({ body }) => work(body))
