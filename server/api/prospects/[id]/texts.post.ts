import { writeText } from '#shared/api/desk/desk'
import { answer } from '../../../http/answer'
import { writeText as write } from '../../../services/texts/send'

export default answer(writeText, ({ viewer, params, body }) => write(viewer, params.id, body))
