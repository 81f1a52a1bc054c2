import { listUsers } from '#shared/api/settings/settings'
import { answer } from '../../http/answer'
import { listUsers as list } from '../../services/settings/settings'

export default answer(listUsers, () => list())
