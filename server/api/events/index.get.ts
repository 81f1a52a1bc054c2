import { readEvents } from '#shared/api/events/feed'
import { answer } from '../../http/answer'
import { eventsAfter } from '../../services/activity/eventFeed'

export default answer(readEvents, ({ query: { after, ...which } }) => eventsAfter(after, which))
