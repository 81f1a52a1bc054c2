import { listImports } from '#shared/api/imports'
import { answer } from '../../http/answer'
import { listImports as list } from '../../services/imports/imports'

export default answer(listImports, ({ viewer }) => list(viewer))
