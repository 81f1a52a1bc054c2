import { removeSecondFactor } from '#shared/api/accounts'
import { answer } from '../../../http/answer'
import { removeSecondFactor as remove } from '../../../services/access/secondFactor'

export default answer(removeSecondFactor, ({ viewer, body }) => remove(viewer, body.password))
