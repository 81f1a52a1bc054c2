import { addVoicemailMessage } from '#shared/api/desk/voicemail'
import { answer } from '../../http/answer'
import { addMessage } from '../../services/voicemail/messages'

export default answer(
  addVoicemailMessage,
  ({ viewer, query, event }) => addMessage(viewer, query.name, event.node.req),
  {
    raw: true,
  },
)
