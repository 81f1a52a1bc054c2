import { answerIncomingCall } from '#shared/api/desk/incoming'
import { answer } from '../../../http/answer'
import { answerIncoming } from '../../../services/incomingCalls/incoming'

export default answer(answerIncomingCall, ({ viewer, params }) => answerIncoming(viewer, params.id))
