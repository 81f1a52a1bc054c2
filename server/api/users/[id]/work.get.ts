import { getUserWork } from '#shared/api/accounts'
import { answer } from '../../../http/answer'
import { getUserWork as read } from '../../../services/accounts/accounts'

export default answer(getUserWork, ({ params }) => read(params.id))
