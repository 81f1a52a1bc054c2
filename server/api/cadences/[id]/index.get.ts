import { getCadence } from '#shared/api/cadences'
import { answer } from '../../../http/answer'
import { getCadence as get } from '../../../services/cadences/cadences'

export default answer(getCadence, ({ params }) => get(params.id))
