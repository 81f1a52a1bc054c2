import { saveDealStages } from '#shared/api/deals'
import { answer } from '../http/answer'
import { saveDealStages as save } from '../services/deals/deals'

export default answer(saveDealStages, ({ body }) => save(body.stages))
