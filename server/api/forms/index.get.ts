import { listForms } from '#shared/api/settings/forms'
import { answer } from '../../http/answer'
import { listForms as work } from '../../services/forms/forms'

export default answer(listForms, work)
