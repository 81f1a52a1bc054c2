import { startRoundTrip } from '#shared/api/testEmails'
import { answer } from '../../http/answer'
import { startRoundTrip as work } from '../../services/email/systemEmails'

export default answer(startRoundTrip, ({ viewer, body }) => work(viewer, body))
