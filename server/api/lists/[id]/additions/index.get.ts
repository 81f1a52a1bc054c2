import { listAdditions } from '#shared/api/lists'
import { answer } from '../../../../http/answer'
import { listAdditions as work } from '../../../../services/lists'

export default answer(listAdditions, ({ viewer, params }) => work(viewer, params.id))
