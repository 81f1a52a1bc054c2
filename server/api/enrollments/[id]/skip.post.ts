import { skipStep } from '#shared/api/cadences/enrollments'
import { answer } from '../../../http/answer'
import { changeEnrollment } from '../../../services/cadences/enrollments'

export default answer(skipStep, ({ viewer, params, body }) =>
  changeEnrollment(viewer, { kind: 'stepSkipped' }, body.id, params.id),
)
