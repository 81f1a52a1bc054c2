import { enroll } from '#shared/api/cadences/enrollments'
import { answer } from '../../../http/answer'
import { enroll as run } from '../../../services/cadences/enrollments'

export default answer(enroll, ({ viewer, params, body }) => run(viewer, params.id, body, body.dryRun))
