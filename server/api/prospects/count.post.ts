import { countProspects } from '#shared/api/lists'
import { answer } from '../../http/answer'
import { countAsked } from '../../services/lists/people'

export default answer(countProspects, ({ viewer, body }) => countAsked(viewer, body))
