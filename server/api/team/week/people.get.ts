import { weekPeople } from '#shared/api/team'
import { answer } from '../../../http/answer'
import { weekPeople as work } from '../../../services/teamWeek'

export default answer(weekPeople, ({ viewer, query }) => work(viewer, query))
