import { endSession } from '#shared/api/accounts'
import { answer } from '../../../http/answer'
import { endSession as end } from '../../../services/access/sessions'

export default answer(endSession, ({ viewer, params }) => end(viewer, params.id))
