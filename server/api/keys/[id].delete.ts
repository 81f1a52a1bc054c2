import { revokeKey } from '#shared/api/accounts'
import { answer } from '../../http/answer'
import { revokeKey as revoke } from '../../services/access/sessions'

export default answer(revokeKey, ({ viewer, params }) => revoke(viewer, params.id))
