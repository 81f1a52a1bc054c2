import { listUsers } from '#shared/api/settings'
import { answer } from '../../http/answer'
import { listUsers as list } from '../../services/settings'

export default answer(listUsers, () => list())
