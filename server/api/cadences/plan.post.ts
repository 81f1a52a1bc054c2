import { planCadence } from '#shared/api/cadences/cadences'
import { answer } from '../../http/answer'
import { planCadence as plan } from '../../services/cadences/cadences'

export default answer(planCadence, ({ viewer, body }) => plan(viewer, body.prospectId, body))
