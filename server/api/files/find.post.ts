import { findFiles } from '#shared/api/email/files'
import { answer } from '../../http/answer'
import { findFiles as find } from '../../services/templates/files'

export default answer(findFiles, async ({ body }) => ({ files: await find(body.ids) }))
