import { signOutElsewhere } from '#shared/api/session'
import { answer } from '../../http/answer'
import { signOutElsewhere as end } from '../../services/access/sessions'

export default answer(signOutElsewhere, async ({ viewer }) => ({ ended: await end(viewer) }))
