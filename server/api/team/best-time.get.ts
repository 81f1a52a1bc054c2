import { teamBestTime } from '#shared/api/desk/bestTime'
import { answer } from '../../http/answer'
import { bestTimeOfTeam } from '../../services/bestTime/bestTimes'

export default answer(teamBestTime, ({ query }) => bestTimeOfTeam(query.industry ?? null))
