import { editNote } from '#shared/api/prospects'
import { answer } from '../../../../../http/answer'
import { editNote as work } from '../../../../../services/prospects/notes'

export default answer(editNote, ({ viewer, params, body }) => work(viewer, params.id, params.note, body))
