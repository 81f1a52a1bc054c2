import { dial } from '#shared/api/desk/desk'
import { answer } from '../../http/answer'
import { dial as ring } from '../../services/desk/calls'

export default answer(dial, ({ viewer, body }) => ring(viewer, body))
