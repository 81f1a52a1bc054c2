import { getSetup } from '#shared/api/settings/setup'
import { answer } from '../../http/answer'
import { getSetup as work } from '../../services/settings/setup'

export default answer(getSetup, ({ viewer }) => work(viewer))
