import { stopProspect } from '#shared/api/prospects'
import { answer } from '../../../http/answer'
import { byHand } from '../../../services/cadences/enrollments'

export default answer(stopProspect, ({ viewer, params, body }) =>
  byHand(viewer, { kind: 'stopSet', prospectId: params.id, actorId: viewer.id, causedByEventId: null, ...body }),
)
