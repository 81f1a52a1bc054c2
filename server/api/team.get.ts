import { getTeam } from '#shared/api/settings/settings'
import { answer } from '../http/answer'
import { getTeam as get } from '../services/settings/settings'

export default answer(getTeam, () => get())
