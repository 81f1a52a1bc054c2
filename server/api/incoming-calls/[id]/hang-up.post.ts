import { endIncomingCall } from '#shared/api/desk/incoming'
import { answer } from '../../../http/answer'
import { endIncoming } from '../../../services/incomingCalls/incoming'

export default answer(endIncomingCall, ({ viewer, params }) => endIncoming(viewer, params.id))
