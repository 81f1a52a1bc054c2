import { listStarters } from '#shared/api/settings/setup'
import { answer } from '../../../http/answer'
import { listStarters as work } from '../../../services/starters/starters'

export default answer(listStarters, () => work())
