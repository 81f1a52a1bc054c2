import { defineEventHandler, getRequestHeaders } from 'h3'
import { answerError } from '../../http/answer'
import { LARGEST_BODY, readText } from '../../http/body'
import { takeTextCallback } from '../../services/texts/receive'

/** Where the gateway for texts calls back: reports of delivery, and texts that came in. */
export default defineEventHandler(async (event) => {
  try {
    const headers = getRequestHeaders(event) as Record<string, string>
    await takeTextCallback(headers, await readText(event, LARGEST_BODY.anyone))
    return {}
  } catch (error) {
    return answerError(event, error)
  }
})
