import { getCompany } from '#shared/api/companies'
import { answer } from '../../../http/answer'
import { getCompany as get } from '../../../services/companies/companies'

export default answer(getCompany, ({ viewer, params }) => get(viewer, params.id))
