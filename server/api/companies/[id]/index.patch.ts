import { editCompany } from '#shared/api/companies'
import { answer } from '../../../http/answer'
import { editCompany as work } from '../../../services/companies/companies'

export default answer(editCompany, ({ viewer, params, body }) => work(viewer, params.id, body))
