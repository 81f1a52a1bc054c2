import { markIncomingCallSeen } from '#shared/api/desk/incoming'
import { answer } from '../../../http/answer'
import { markSeen } from '../../../services/incomingCalls/incoming'

export default answer(markIncomingCallSeen, ({ viewer, params }) => markSeen(viewer, params.id))
