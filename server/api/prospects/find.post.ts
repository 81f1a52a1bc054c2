import { findProspects } from '#shared/api/lists'
import { answer } from '../../http/answer'
import { findPeople } from '../../services/lists/people'

export default answer(findProspects, ({ viewer, body }) => findPeople(viewer, body))
