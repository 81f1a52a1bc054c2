import { listKeys } from '#shared/api/settings'
import { answer } from '../../http/answer'
import { listKeys as list } from '../../services/sessions'

export default answer(listKeys, ({ viewer }) => list(viewer))
