import { settleEmail } from '#shared/api/desk/desk'
import { answer } from '../../../http/answer'
import { settleEmail as settle } from '../../../services/email/messages'

export default answer(settleEmail, ({ viewer, params, body }) => settle(viewer, body.id, params.id, body.wentOut))
