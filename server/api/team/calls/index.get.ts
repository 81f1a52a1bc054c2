import { teamCalls } from '#shared/api/team'
import { answer } from '../../../http/answer'
import { teamCalls as work } from '../../../services/team/teamCalls'

export default answer(teamCalls, ({ query }) => work(query))
