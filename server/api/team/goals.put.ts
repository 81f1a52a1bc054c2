import { setGoals } from '#shared/api/team'
import { answer } from '../../http/answer'
import { setGoals as work } from '../../services/team/teamWeek'

export default answer(setGoals, ({ body }) => work(body.users))
