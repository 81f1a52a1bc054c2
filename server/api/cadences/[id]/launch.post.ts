import { launchCadence } from '#shared/api/cadences/launch'
import { answer } from '../../../http/answer'
import { launchCadence as launch } from '../../../services/cadences/launch'

export default answer(launchCadence, ({ viewer, params, body }) => launch(viewer, params.id, body))
