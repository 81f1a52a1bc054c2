import { confirmSecondFactor } from '#shared/api/accounts'
import { answer } from '../../../http/answer'
import { confirmSecondFactor as confirm } from '../../../services/access/secondFactor'

export default answer(confirmSecondFactor, ({ viewer, body }) => confirm(viewer, body.secret, body.code))
