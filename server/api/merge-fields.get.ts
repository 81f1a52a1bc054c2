import { mergeFields } from '#shared/api/fields'
import { answer } from '../http/answer'
import { listMergeFields } from '../services/customFields'

export default answer(mergeFields, () => listMergeFields())
