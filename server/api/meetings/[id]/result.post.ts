import { settleMeeting } from '#shared/api/desk/desk'
import { answer } from '../../../http/answer'
import { settleMeeting as work } from '../../../services/desk/meetings'

export default answer(settleMeeting, ({ viewer, params, body }) => work(viewer, params.id, body))
