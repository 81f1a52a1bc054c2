import { dayRidge } from '#shared/api/desk'
import { answer } from '../../http/answer'
import { dayRidge as read } from '../../services/desk/desk'

export default answer(dayRidge, ({ viewer }) => read(viewer))
