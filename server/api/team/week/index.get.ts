import { teamWeek } from '#shared/api/team'
import { answer } from '../../../http/answer'
import { teamWeek as work } from '../../../services/team/teamWeek'

export default answer(teamWeek, ({ viewer, query }) => work(viewer, query))
