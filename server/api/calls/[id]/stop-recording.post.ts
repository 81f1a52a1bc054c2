import { stopRecording } from '#shared/api/settings/recording'
import { answer } from '../../../http/answer'
import { stopRecording as stop } from '../../../services/recordings/recordings'

export default answer(stopRecording, ({ viewer, params }) => stop(viewer, params.id))
