import { pinNote } from '#shared/api/prospects'
import { answer } from '../../../../../http/answer'
import { pinNote as work } from '../../../../../services/prospects/notes'

export default answer(pinNote, ({ viewer, params, body }) => work(viewer, params.id, params.note, body.pinned))
