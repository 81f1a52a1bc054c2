import { editTeam } from '#shared/api/settings/settings'
import { answer } from '../http/answer'
import { editTeam as edit } from '../services/settings/settings'

export default answer(editTeam, ({ body }) => edit(body))
