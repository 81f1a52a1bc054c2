import { cancelMeeting } from '#shared/api/desk/desk'
import { answer } from '../../../http/answer'
import { cancelMeeting as work } from '../../../services/desk/meetings'

export default answer(cancelMeeting, ({ viewer, params, body }) => work(viewer, params.id, body.id))
