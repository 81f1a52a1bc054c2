import { cadenceResults } from '#shared/api/cadences/results'
import { answer } from '../../../../http/answer'
import { cadenceResults as results } from '../../../../services/cadences/results'

export default answer(cadenceResults, ({ viewer, params }) => results(viewer, params.id))
