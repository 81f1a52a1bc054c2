import { mergeFields } from '#shared/api/settings/fields'
import { answer } from '../http/answer'
import { listMergeFields } from '../services/fields/customFields'

export default answer(mergeFields, () => listMergeFields())
