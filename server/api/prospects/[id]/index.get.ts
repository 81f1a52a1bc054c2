import { getProspect } from '#shared/api/prospects'
import { answer } from '../../../http/answer'
import { getProspect as get } from '../../../services/prospects/prospects'

export default answer(getProspect, ({ viewer, params }) => get(viewer, params.id))
