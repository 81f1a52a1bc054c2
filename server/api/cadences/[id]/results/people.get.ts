import { cadenceResultPeople } from '#shared/api/cadences/results'
import { answer } from '../../../../http/answer'
import { resultPeople } from '../../../../services/cadences/results'

export default answer(cadenceResultPeople, ({ viewer, params, query }) => resultPeople(viewer, params.id, query))
