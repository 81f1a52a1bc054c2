import { dayRidge } from '#shared/api/desk/queue'
import { answer } from '../../http/answer'
import { dayRidge as read } from '../../services/desk/dayRidge'

export default answer(dayRidge, ({ viewer }) => read(viewer))
