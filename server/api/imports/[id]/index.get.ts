import { getImport } from '#shared/api/imports'
import { answer } from '../../../http/answer'
import { getImport as get } from '../../../services/imports/imports'

export default answer(getImport, ({ viewer, params }) => get(viewer, params.id))
