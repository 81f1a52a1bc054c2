import { companyResearch } from '#shared/api/companies'
import { answer } from '../../../http/answer'
import { researchOf } from '../../../services/companies/research'

export default answer(companyResearch, ({ viewer, params }) => researchOf(viewer, params.id))
