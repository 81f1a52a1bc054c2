import { listKeys } from '#shared/api/accounts'
import { answer } from '../../http/answer'
import { listKeys as list } from '../../services/access/sessions'

export default answer(listKeys, ({ viewer }) => list(viewer))
