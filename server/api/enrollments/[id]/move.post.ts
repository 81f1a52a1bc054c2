import { moveEnrollment } from '#shared/api/cadences/enrollments'
import { answer } from '../../../http/answer'
import { changeEnrollment } from '../../../services/cadences/enrollments'

export default answer(moveEnrollment, ({ viewer, params, body: { id, ...to } }) =>
  changeEnrollment(viewer, { kind: 'enrollmentMoved', ...to }, id, params.id),
)
