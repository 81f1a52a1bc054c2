import { removeMapping } from '#shared/api/imports'
import { answer } from '../../../http/answer'
import { removeMapping as work } from '../../../services/importMappings'

export default answer(removeMapping, ({ params }) => work(params.id))
