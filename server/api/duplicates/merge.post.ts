import { mergePairs } from '#shared/api/duplicates'
import { answer } from '../../http/answer'
import { mergePairs as merge } from '../../services/duplicates/merges'

export default answer(mergePairs, ({ viewer, body }) => merge(viewer, body.pairs))
