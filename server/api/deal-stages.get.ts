import { listDealStages } from '#shared/api/deals'
import { answer } from '../http/answer'
import { listDealStages as work } from '../services/deals/deals'

export default answer(listDealStages, () => work())
