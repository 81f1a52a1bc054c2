import { callState } from '#shared/api/desk/desk'
import { answer } from '../../../http/answer'
import { callState as status } from '../../../services/desk/calls'

export default answer(callState, ({ viewer, params }) => status(viewer, params.id))
