import { mapProspects } from '#shared/api/places'
import { answer } from '../../http/answer'
import { mapPeople } from '../../services/companies/places'

export default answer(mapProspects, ({ viewer, body }) => mapPeople(viewer, body))
