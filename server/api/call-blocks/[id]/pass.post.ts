import { nextPass } from '#shared/api/blocks/work'
import { answer } from '../../../http/answer'
import { nextPass as work } from '../../../services/blocks/editBlock'

export default answer(nextPass, ({ viewer, params, body }) => work(viewer, params.id, body.pass))
