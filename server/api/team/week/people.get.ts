import { weekPeople } from '#shared/api/team'
import { answer } from '../../../http/answer'
import { weekPeople as work } from '../../../services/team/teamWeek'

export default answer(weekPeople, ({ viewer, query }) => work(viewer, query))
