import { assignCalls } from '#shared/api/team'
import { answer } from '../../../http/answer'
import { assignCalls as work } from '../../../services/team/teamCalls'

export default answer(assignCalls, ({ viewer, body }) => work(viewer, body))
