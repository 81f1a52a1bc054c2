import { editVoicemailMessage } from '#shared/api/desk/voicemail'
import { answer } from '../../../http/answer'
import { editMessage } from '../../../services/voicemail/messages'

export default answer(editVoicemailMessage, ({ viewer, params, body }) => editMessage(viewer, params.id, body))
