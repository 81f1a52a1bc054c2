import { getRecordingSettings } from '#shared/api/settings/recording'
import { answer } from '../../http/answer'
import { getSettings } from '../../services/recordings/settings'

export default answer(getRecordingSettings, () => getSettings())
