import { removeResult } from '#shared/api/blocks/otherDialers'
import { answer } from '../../http/answer'
import { removeResult as remove } from '../../services/otherDialers/results'

export default answer(removeResult, ({ viewer, params }) => remove(viewer, params.id))
