import { editForm } from '#shared/api/settings/forms'
import { answer } from '../../../http/answer'
import { editForm as work } from '../../../services/forms/forms'

export default answer(editForm, ({ viewer, params, body }) => work(viewer, params.id, body))
