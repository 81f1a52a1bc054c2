import { settleEmails } from '#shared/api/problems'
import { answer } from '../../http/answer'
import { settleEmails as run } from '../../services/system/problems'

export default answer(settleEmails, ({ viewer, body }) => run(viewer, body.messageIds, body.wentOut))
