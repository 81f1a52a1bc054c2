import { setCadenceState } from '#shared/api/cadences/cadences'
import { answer } from '../../../http/answer'
import { setCadenceState as work } from '../../../services/cadences/editCadence'

export default answer(setCadenceState, ({ viewer, params, body }) => work(viewer, params.id, body.to, body.people))
