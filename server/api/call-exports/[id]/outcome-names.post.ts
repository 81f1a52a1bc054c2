import { nameOutcome } from '#shared/api/blocks/otherDialers'
import { answer } from '../../../http/answer'
import { nameOutcome as name } from '../../../services/otherDialers/results'

export default answer(nameOutcome, ({ viewer, params, body }) => name(viewer, params.id, body))
