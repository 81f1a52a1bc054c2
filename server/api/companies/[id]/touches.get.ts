import { companyTouches } from '#shared/api/companies'
import { answer } from '../../../http/answer'
import { companyTouches as work } from '../../../services/companies/research'

export default answer(companyTouches, ({ viewer, params }) => work(viewer, params.id))
