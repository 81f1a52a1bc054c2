import { unenroll } from '#shared/api/cadences/enrollments'
import { answer } from '../../../http/answer'
import { changeEnrollment } from '../../../services/cadences/enrollments'

export default answer(unenroll, ({ viewer, params, body }) =>
  changeEnrollment(viewer, { kind: 'unenrolled' }, body.id, params.id),
)
