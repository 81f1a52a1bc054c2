import { addForm } from '#shared/api/settings/forms'
import { answer } from '../../http/answer'
import { addForm as work } from '../../services/forms/forms'

export default answer(addForm, ({ viewer, body }) => work(viewer, body))
