import { endExport } from '#shared/api/blocks/otherDialers'
import { answer } from '../../../http/answer'
import { endExport as end } from '../../../services/otherDialers/exports'

export default answer(endExport, ({ viewer, params }) => end(viewer, params.id))
