import { getCadence } from '#shared/api/cadences/cadences'
import { answer } from '../../../http/answer'
import { readCadence as get } from '../../../services/cadences/cadences'

export default answer(getCadence, ({ viewer, params }) => get(viewer, params.id))
