import { setCompanyStanding } from '#shared/api/prospects'
import { answer } from '../../../http/answer'
import { byHand } from '../../../services/enrollments'

export default answer(setCompanyStanding, ({ viewer, body }) => byHand(viewer, { id: body.id, kind: 'companyStandingSet', prospectId: body.prospectId, actorId: viewer.id, causeId: null, to: body.to }))
