import { editProspect } from '#shared/api/prospects'
import { answer } from '../../../http/answer'
import { editProspect as edit } from '../../../services/prospects/editProspect'

export default answer(editProspect, ({ viewer, params, body }) => edit(viewer, params.id, body))
