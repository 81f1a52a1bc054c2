import { importCadence } from '#shared/api/cadences/cadenceFile'
import { answer } from '../../../http/answer'
import { importCadence as add } from '../../../services/cadences/cadenceFile'

export default answer(importCadence, ({ viewer, body }) => add(viewer, body.file))
