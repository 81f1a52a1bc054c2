import { archiveStage } from '#shared/api/settings/stages'
import { answer } from '../../../http/answer'
import { archiveStage as work } from '../../../services/settings/stages'

export default answer(archiveStage, ({ viewer, params, body }) => work(viewer, params.stage, body.moveTo))
