import { addCompanyNote } from '#shared/api/companies'
import { answer } from '../../../http/answer'
import { addCompanyNote as work } from '../../../services/companies/research'

export default answer(addCompanyNote, ({ viewer, params, body }) => work(viewer, params.id, body.id, body.body))
