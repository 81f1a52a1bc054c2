import { copyCadence } from '#shared/api/cadences/cadences'
import { answer } from '../../../http/answer'
import { copyCadence as work } from '../../../services/cadences/editCadence'

export default answer(copyCadence, ({ viewer, params }) => work(viewer, params.id))
