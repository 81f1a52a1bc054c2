import { hangUp } from '#shared/api/desk/desk'
import { answer } from '../../../http/answer'
import { hangUp as end } from '../../../services/desk/calls'

export default answer(hangUp, ({ viewer, params }) => end(viewer, params.id))
