import { dialLines } from '#shared/api/blocks/lines'
import { answer } from '../../../http/answer'
import { dialLines as dial } from '../../../services/lines/dialing'

export default answer(dialLines, ({ viewer, params, body }) => dial(viewer, params.id, body.on))
