import { listVoicemailMessages } from '#shared/api/desk/voicemail'
import { answer } from '../../http/answer'
import { listMessages } from '../../services/voicemail/messages'

export default answer(listVoicemailMessages, async ({ viewer }) => ({ messages: await listMessages(viewer) }))
