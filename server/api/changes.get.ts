import { userChanges } from '#shared/api/session'
import { answer } from '../http/answer'
import { streamChanges } from '../http/eventStream'
import { onUserChange } from '../db/userChanges'

export default answer(userChanges, ({ viewer, event }) => {
  streamChanges(event, (changed) => onUserChange(viewer.id, changed))
})
