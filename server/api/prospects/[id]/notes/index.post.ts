import { addNote } from '#shared/api/prospects'
import { answer } from '../../../../http/answer'
import { addNote as add } from '../../../../services/prospects/notes'

export default answer(addNote, ({ viewer, params, body }) => add(viewer, params.id, body.id, body.body))
