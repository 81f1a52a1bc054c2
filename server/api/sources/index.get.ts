import { listSources } from '#shared/api/settings/settings'
import { answer } from '../../http/answer'
import { listSources as work } from '../../services/fields/sources'

export default answer(listSources, () => work())
