import { editTeam } from '#shared/api/settings'
import { answer } from '../http/answer'
import { editTeam as edit } from '../services/settings'

export default answer(editTeam, ({ body }) => edit(body))
