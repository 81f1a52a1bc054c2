import { addCompanyLink } from '#shared/api/companies'
import { answer } from '../../../../http/answer'
import { addCompanyLink as work } from '../../../../services/companies/research'

export default answer(addCompanyLink, ({ viewer, params, body }) => work(viewer, params.id, body.url, body.label))
