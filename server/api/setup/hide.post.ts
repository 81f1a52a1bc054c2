import { hideSetup } from '#shared/api/setup'
import { answer } from '../../http/answer'
import { hideSetup as work } from '../../services/setup'

export default answer(hideSetup, ({ viewer, body }) => work(viewer, body.hidden))
