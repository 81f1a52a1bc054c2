import { editEmail } from '#shared/api/prospects'
import { answer } from '../../../../http/answer'
import { editEmail as work } from '../../../../services/prospects/contacts'

export default answer(editEmail, ({ viewer, params, body }) => work(viewer, params.id, params.email, body))
