import { moveMeeting } from '#shared/api/desk/desk'
import { answer } from '../../../http/answer'
import { moveMeeting as work } from '../../../services/desk/meetings'

export default answer(moveMeeting, ({ viewer, params, body }) => work(viewer, params.id, body))
