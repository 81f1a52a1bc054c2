import { hideSetup } from '#shared/api/settings/setup'
import { answer } from '../../http/answer'
import { hideSetup as work } from '../../services/settings/setup'

export default answer(hideSetup, ({ viewer, body }) => work(viewer, body.hidden))
