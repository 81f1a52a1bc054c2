import { markNotifications } from '#shared/api/notifications'
import { answer } from '../../http/answer'
import { markNotifications as mark } from '../../services/notifications/notifications'

export default answer(markNotifications, ({ viewer, body }) => mark(viewer, body.ids, body.read))
