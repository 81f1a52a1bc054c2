import { getAccount } from '#shared/api/accounts'
import { answer } from '../../http/answer'
import { getAccount as read } from '../../services/accounts/accounts'

export default answer(getAccount, ({ viewer }) => read(viewer))
