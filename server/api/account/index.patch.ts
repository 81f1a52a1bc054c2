import { editAccount } from '#shared/api/accounts'
import { answer } from '../../http/answer'
import { editAccount as work } from '../../services/accounts/accounts'

export default answer(editAccount, ({ viewer, body }) => work(viewer, body))
