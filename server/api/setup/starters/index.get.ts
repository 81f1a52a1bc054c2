import { listStarters } from '#shared/api/setup'
import { answer } from '../../../http/answer'
import { listStarters as work } from '../../../services/starters'

export default answer(listStarters, () => work())
