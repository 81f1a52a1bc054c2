import { queueChoices } from '#shared/api/desk/queue'
import { answer } from '../../http/answer'
import { queueChoices as read } from '../../services/desk/chosenQueue'

export default answer(queueChoices, ({ viewer }) => read(viewer))
