import { removeMapping } from '#shared/api/imports'
import { answer } from '../../../http/answer'
import { removeMapping as work } from '../../../services/imports/importMappings'

export default answer(removeMapping, ({ params }) => work(params.id))
