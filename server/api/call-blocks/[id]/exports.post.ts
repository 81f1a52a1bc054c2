import { addExport } from '#shared/api/blocks/otherDialers'
import { answer } from '../../../http/answer'
import { addExport as add } from '../../../services/otherDialers/exports'

export default answer(addExport, ({ viewer, params, body }) => add(viewer, params.id, body))
