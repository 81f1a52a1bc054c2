import { listFields } from '#shared/api/settings/fields'
import { answer } from '../../http/answer'
import { listFields as work } from '../../services/fields/customFields'

export default answer(listFields, () => work())
