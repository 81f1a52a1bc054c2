import { listMappings } from '#shared/api/imports'
import { answer } from '../../../http/answer'
import { listMappings as work } from '../../../services/imports/importMappings'

export default answer(listMappings, () => work())
