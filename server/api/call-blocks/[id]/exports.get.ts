import { listExports } from '#shared/api/blocks/otherDialers'
import { answer } from '../../../http/answer'
import { listExports as list } from '../../../services/otherDialers/exports'

export default answer(listExports, ({ viewer, params }) => list(viewer, params.id))
