import { tellApart } from '#shared/api/duplicates'
import { answer } from '../../http/answer'
import { tellApart as work } from '../../services/duplicates/findDuplicates'

export default answer(tellApart, ({ viewer, body }) => work(viewer, body.ids))
