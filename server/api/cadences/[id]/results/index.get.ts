import { cadenceResults } from '#shared/api/cadences'
import { answer } from '../../../../http/answer'
import { cadenceResults as results } from '../../../../services/cadences/results'

export default answer(cadenceResults, ({ viewer, params }) => results(viewer, params.id))
