import { cadenceFileFormat, cadenceFileJsonSchema } from '#shared/api/cadences/cadenceFile'
import { answer } from '../../../http/answer'

export default answer(cadenceFileFormat, async () => cadenceFileJsonSchema())
