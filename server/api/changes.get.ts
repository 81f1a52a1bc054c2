import { userChanges } from '#shared/api/session'
import { answer } from '../http/answer'
import { streamChanges } from '../http/eventStream'
import { onUserChange } from '../db/userChanges'
import { onlyCalls } from '#core/roles'

export default answer(userChanges, ({ viewer, event }) => {
  streamChanges(event, (changed) =>
    onUserChange(viewer.id, (topic, prospectId) => {
      // What others do with prospects is nothing for callers.
      if (prospectId === undefined) changed(topic)
      else if (!onlyCalls(viewer)) changed(`${topic} ${prospectId}`)
    }),
  )
})
