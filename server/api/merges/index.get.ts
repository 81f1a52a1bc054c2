import { listMerges } from '#shared/api/duplicates'
import { answer } from '../../http/answer'
import { listMerges as work } from '../../services/duplicates/merges'

export default answer(listMerges, ({ viewer }) => work(viewer))
