import { removeVoicemailMessage } from '#shared/api/desk/voicemail'
import { answer } from '../../../http/answer'
import { removeMessage } from '../../../services/voicemail/messages'

export default answer(removeVoicemailMessage, ({ viewer, params }) => removeMessage(viewer, params.id))
