import { addResultFile } from '#shared/api/blocks/otherDialers'
import { answer } from '../../../http/answer'
import { addResultFile as add } from '../../../services/otherDialers/results'

export default answer(
  addResultFile,
  ({ viewer, params, query, event }) => add(viewer, params.id, query.name, event.node.req),
  { raw: true },
)
