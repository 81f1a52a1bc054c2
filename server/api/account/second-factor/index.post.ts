import { startSecondFactor } from '#shared/api/accounts'
import { answer } from '../../../http/answer'
import { startSecondFactor as start } from '../../../services/access/secondFactor'

export default answer(startSecondFactor, ({ viewer, body }) => start(viewer, body.password))
