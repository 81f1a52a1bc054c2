import { listNotifications } from '#shared/api/notifications'
import { answer } from '../../http/answer'
import { listNotifications as list } from '../../services/notifications/notifications'

export default answer(listNotifications, ({ viewer, query }) => list(viewer, query.before ?? null))
