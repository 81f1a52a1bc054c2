import { addResults } from '#shared/api/blocks/otherDialers'
import { answer } from '../../../http/answer'
import { addResults as add } from '../../../services/otherDialers/results'

export default answer(addResults, ({ viewer, params, body }) => add(viewer, params.id, body.results, null))
