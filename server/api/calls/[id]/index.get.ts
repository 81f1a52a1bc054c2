import { callState } from '#shared/api/desk'
import { answer } from '../../../http/answer'
import { callState as state } from '../../../services/calls'

export default answer(callState, ({ viewer, params }) => state(viewer, params.id))
