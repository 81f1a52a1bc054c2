import { formSubmissions } from '#shared/api/settings/forms'
import { answer } from '../../../http/answer'
import { formSubmissions as work } from '../../../services/forms/forms'

export default answer(formSubmissions, ({ params, query }) => work(params.id, query.limit))
