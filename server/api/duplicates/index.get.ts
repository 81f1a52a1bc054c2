import { findDuplicates } from '#shared/api/duplicates'
import { answer } from '../../http/answer'
import { findDuplicates as work } from '../../services/duplicates/findDuplicates'

export default answer(findDuplicates, ({ viewer, query }) => work(viewer, query.about ?? null, query.limit))
