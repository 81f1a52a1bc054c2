import { mergeProspects } from '#shared/api/duplicates'
import { answer } from '../../../http/answer'
import { mergeProspects as work } from '../../../services/duplicates/merges'

export default answer(mergeProspects, ({ viewer, params, body }) => work(viewer, body.id, params.id, body.duplicateId))
