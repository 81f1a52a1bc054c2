import { findPlaces as endpoint } from '#shared/api/places'
import { answer } from '../../http/answer'
import { findPlaces } from '../../services/companies/places'

export default answer(endpoint, async ({ query }) => ({ places: await findPlaces(query.q) }))
