import { getSetup } from '#shared/api/setup'
import { answer } from '../../http/answer'
import { getSetup as work } from '../../services/setup'

export default answer(getSetup, ({ viewer }) => work(viewer))
