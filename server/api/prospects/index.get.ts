import { listProspects } from '#shared/api/prospects'
import { answer } from '../../http/answer'
import { listProspects as list } from '../../services/prospects/prospects'

export default answer(listProspects, ({ viewer, query }) => list(viewer, query))
