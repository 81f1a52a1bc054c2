import { openapi } from '#shared/api/session'
import { env } from '../environment'
import { answer } from '../http/answer'
import { openApiDocument } from '../http/openapi'

export default answer(openapi, () => openApiDocument(env().url) as Record<string, unknown>)
