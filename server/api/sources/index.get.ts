import { listSources } from '#shared/api/settings'
import { answer } from '../../http/answer'
import { listSources as work } from '../../services/sources'

export default answer(listSources, () => work())
