import { leaveVoicemail } from '#shared/api/desk/voicemail'
import { answer } from '../../../http/answer'
import { leaveVoicemail as leave } from '../../../services/voicemail/leave'

export default answer(leaveVoicemail, ({ viewer, params, body }) => leave(viewer, params.id, body.messageId))
