import { listCadences } from '#shared/api/cadences/cadences'
import { answer } from '../../http/answer'
import { listCadences as list } from '../../services/cadences/cadences'

export default answer(listCadences, ({ viewer }) => list(viewer))
