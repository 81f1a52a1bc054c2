import { findCompanies } from '#shared/api/lists'
import { answer } from '../../http/answer'
import { findCompanies as work } from '../../services/lists/companyLists'

export default answer(findCompanies, ({ viewer, body }) => work(viewer, body))
