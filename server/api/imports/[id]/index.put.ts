import { checkImport } from '#shared/api/imports'
import { answer } from '../../../http/answer'
import { checkImport as check } from '../../../services/imports/imports'

export default answer(checkImport, ({ viewer, params, body }) => check(viewer, params.id, body))
