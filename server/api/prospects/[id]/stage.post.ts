import { manages } from '#core/roles'
import { moveProspect } from '#shared/api/prospects'
import { answer } from '../../../http/answer'
import { byHand } from '../../../services/cadences/enrollments'
import { Refusal } from '../../../services/access/errors'

export default answer(moveProspect, ({ viewer, params, body }) => {
  if (body.override && !manages(viewer)) throw new Refusal('not_allowed', 'Only a manager can override a gate')
  return byHand(viewer, {
    kind: 'stageMoved',
    prospectId: params.id,
    actorId: viewer.id,
    causedByEventId: null,
    ...body,
  })
})
