import { editPhone } from '#shared/api/prospects'
import { answer } from '../../../../http/answer'
import { editPhone as work } from '../../../../services/prospects/phones'

export default answer(editPhone, ({ viewer, params, body }) => work(viewer, params.id, params.phone, body))
