import { setResponseStatus } from 'h3'
import { health } from '#shared/api/session'
import { answer } from '../http/answer'
import { readHealth } from '../services/system/health'

/** 503 where nothing can be answered at all, so that what spreads the load looks elsewhere. */
export default answer(health, async ({ event }) => {
  const found = await readHealth()
  if (found.status === 'down') setResponseStatus(event, 503)
  return found
})
