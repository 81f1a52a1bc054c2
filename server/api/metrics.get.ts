import { setResponseHeader } from 'h3'
import { metrics } from '#shared/api/session'
import { answer } from '../http/answer'
import { readMetrics } from '../http/metrics'

export default answer(metrics, async ({ event }) => {
  const { contentType, text } = await readMetrics()
  setResponseHeader(event, 'content-type', contentType)
  return text
})
