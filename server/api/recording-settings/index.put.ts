import { editRecordingSettings } from '#shared/api/settings/recording'
import { answer } from '../../http/answer'
import { editSettings } from '../../services/recordings/settings'

export default answer(editRecordingSettings, ({ body }) => editSettings(body))
