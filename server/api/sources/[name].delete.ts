import { removeSource } from '#shared/api/settings'
import { answer } from '../../http/answer'
import { removeSource as work } from '../../services/sources'

export default answer(removeSource, ({ params }) => work(params.name))
