import { takeStarters } from '#shared/api/settings/setup'
import { answer } from '../../../http/answer'
import { takeStarters as work } from '../../../services/starters/starters'

export default answer(takeStarters, ({ viewer, body }) => work(viewer, body))
