import { makeResetLink } from '#shared/api/accounts'
import { answer } from '../../../http/answer'
import { makeResetLink as make } from '../../../services/accounts/accounts'

export default answer(makeResetLink, ({ viewer, params }) => make(viewer, params.id))
