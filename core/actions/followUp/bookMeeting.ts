import { bookMeeting as book } from '../../engine/moves/meetings'
import { actionSchema, defineAction } from '../kind/define'

/** Books the meeting that was agreed; its invitation goes out. */
export const bookMeeting = defineAction({
  type: 'bookMeeting',
  label: 'Book the meeting',
  schema: actionSchema('bookMeeting', {}),
  needs: 'meeting',
  mayWait: false,
  apply({ context, prospect, details, cause }) {
    book(context, prospect, details, cause)
  },
  describe: () => 'Books the meeting, the invitation goes out',
})
