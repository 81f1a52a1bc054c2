import { erasePerson } from '#shared/api/prospects'
import { answer } from '../../../http/answer'
import { erasePerson as run } from '../../../services/prospects/erasure'

export default answer(erasePerson, ({ viewer, params, body }) => run(viewer, params.id, body))
