import { unenroll } from '#shared/api/cadences'
import { answer } from '../../../http/answer'
import { unenroll as end } from '../../../services/cadences/enrollments'

export default answer(unenroll, ({ viewer, params, body }) => end(viewer, body.id, params.id))
