import { editResult } from '#shared/api/blocks/otherDialers'
import { answer } from '../../http/answer'
import { editResult as edit } from '../../services/otherDialers/results'

export default answer(editResult, ({ viewer, params, body }) => edit(viewer, params.id, body))
