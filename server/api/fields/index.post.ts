import { addField } from '#shared/api/settings/fields'
import { answer } from '../../http/answer'
import { addField as work } from '../../services/fields/customFields'

export default answer(addField, ({ body }) => work(body))
