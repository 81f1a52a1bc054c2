import { runImport } from '#shared/api/imports'
import { answer } from '../../../http/answer'
import { runImport as run } from '../../../services/imports/imports'

export default answer(runImport, ({ viewer, params, body }) => run(viewer, params.id, body))
