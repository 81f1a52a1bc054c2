import { addCadence } from '#shared/api/cadences/cadences'
import { answer } from '../../http/answer'
import { addCadence as add } from '../../services/cadences/editCadence'

export default answer(addCadence, ({ viewer, body }) => add(viewer, body))
