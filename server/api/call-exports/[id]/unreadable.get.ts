import { listUnreadable } from '#shared/api/blocks/otherDialers'
import { answer } from '../../../http/answer'
import { listUnreadable as list } from '../../../services/otherDialers/results'

export default answer(listUnreadable, ({ viewer, params }) => list(viewer, params.id))
