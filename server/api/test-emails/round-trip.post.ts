import { startRoundTrip } from '#shared/api/email/testEmails'
import { answer } from '../../http/answer'
import { startRoundTrip as work } from '../../services/email/systemEmails'

export default answer(startRoundTrip, ({ viewer, body }) => work(viewer, body))
