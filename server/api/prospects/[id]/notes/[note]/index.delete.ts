import { deleteNote } from '#shared/api/prospects'
import { answer } from '../../../../../http/answer'
import { deleteNote as work } from '../../../../../services/prospects/notes'

export default answer(deleteNote, ({ viewer, params }) => work(viewer, params.id, params.note))
