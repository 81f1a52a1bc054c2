import { listFields } from '#shared/api/fields'
import { answer } from '../../http/answer'
import { listFields as work } from '../../services/customFields'

export default answer(listFields, () => work())
