import { getProspect } from '#shared/api/prospects'
import { answer } from '../../../http/answer'
import { getProspect as get } from '../../../services/prospects'

export default answer(getProspect, ({ viewer, params }) => get(viewer, params.id))
