import { resetPassword } from '#shared/api/accounts'
import { answer } from '../http/answer'
import { resetPassword as reset } from '../services/accounts/accounts'

export default answer(resetPassword, ({ body }) => reset(body.token, body.password))
