import { saveMapping } from '#shared/api/imports'
import { answer } from '../../../http/answer'
import { saveMapping as work } from '../../../services/imports/importMappings'

export default answer(saveMapping, ({ body }) => work(body))
