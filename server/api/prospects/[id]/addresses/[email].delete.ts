import { removeEmail } from '#shared/api/prospects'
import { answer } from '../../../../http/answer'
import { removeEmail as work } from '../../../../services/prospects/contacts'

export default answer(removeEmail, ({ viewer, params }) => work(viewer, params.id, params.email))
