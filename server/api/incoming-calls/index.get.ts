import { listIncomingCalls } from '#shared/api/desk/incoming'
import { answer } from '../../http/answer'
import { listIncoming } from '../../services/incomingCalls/incoming'

export default answer(listIncomingCalls, ({ viewer }) => listIncoming(viewer))
