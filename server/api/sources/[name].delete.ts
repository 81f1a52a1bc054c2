import { removeSource } from '#shared/api/settings/settings'
import { answer } from '../../http/answer'
import { removeSource as work } from '../../services/fields/sources'

export default answer(removeSource, ({ params }) => work(params.name))
