import { removeCompanyLink } from '#shared/api/companies'
import { answer } from '../../../../http/answer'
import { removeCompanyLink as work } from '../../../../services/companies/research'

export default answer(removeCompanyLink, ({ viewer, params }) => work(viewer, params.id, params.link))
