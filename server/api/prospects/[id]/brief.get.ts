import { brief } from '#shared/api/desk/desk'
import { answer } from '../../../http/answer'
import { brief as read } from '../../../services/desk/brief'

export default answer(brief, ({ viewer, params, query }) =>
  read(viewer, params.id, query.task ?? null, query.call ?? null, query.block ?? null),
)
