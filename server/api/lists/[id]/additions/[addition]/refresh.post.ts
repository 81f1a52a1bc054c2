import { refreshAddition } from '#shared/api/lists'
import { answer } from '../../../../../http/answer'
import { refreshAddition as work } from '../../../../../services/lists'

export default answer(refreshAddition, ({ viewer, params }) => work(viewer, params.id, params.addition))
