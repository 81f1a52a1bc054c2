import { editCadence } from '#shared/api/cadences/cadences'
import { answer } from '../../../http/answer'
import { editCadence as edit } from '../../../services/cadences/editCadence'

export default answer(editCadence, ({ viewer, params, body }) => edit(viewer, params.id, body))
