import { getTeam } from '#shared/api/settings'
import { answer } from '../http/answer'
import { getTeam as get } from '../services/settings'

export default answer(getTeam, () => get())
