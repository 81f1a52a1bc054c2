import { removePhone } from '#shared/api/prospects'
import { answer } from '../../../../http/answer'
import { removePhone as work } from '../../../../services/prospects/phones'

export default answer(removePhone, ({ viewer, params }) => work(viewer, params.id, params.phone))
