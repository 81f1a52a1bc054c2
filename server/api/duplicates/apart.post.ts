import { tellApart } from '#shared/api/duplicates'
import { answer } from '../../http/answer'
import { tellApart as work } from '../../services/merges'

export default answer(tellApart, ({ viewer, body }) => work(viewer, body.ids))
