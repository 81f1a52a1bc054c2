import { takeStarters } from '#shared/api/setup'
import { answer } from '../../../http/answer'
import { takeStarters as work } from '../../../services/starters'

export default answer(takeStarters, ({ viewer, body }) => work(viewer, body))
