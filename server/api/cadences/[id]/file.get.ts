import { exportCadence } from '#shared/api/cadences/cadenceFile'
import { answer } from '../../../http/answer'
import { exportCadence as write } from '../../../services/cadences/cadenceFile'

export default answer(exportCadence, ({ viewer, params }) => write(viewer, params.id))
