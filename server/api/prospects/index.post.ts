import { addProspect } from '#shared/api/prospects'
import { answer } from '../../http/answer'
import { addProspect as add } from '../../services/prospects/addProspect'

export default answer(addProspect, ({ viewer, body }) => add(viewer, body))
