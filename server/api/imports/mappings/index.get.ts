import { listMappings } from '#shared/api/imports'
import { answer } from '../../../http/answer'
import { listMappings as work } from '../../../services/importMappings'

export default answer(listMappings, () => work())
