import { defineEventHandler, getRequestHeaders } from 'h3'
import { answerError } from '../../http/answer'
import { LARGEST_BODY, readText } from '../../http/body'
import { takeCallCallback } from '../../services/incomingCalls/receive'

/** Where the exchange calls back: a call comes in, a call is over. */
export default defineEventHandler(async (event) => {
  try {
    const headers = getRequestHeaders(event) as Record<string, string>
    await takeCallCallback(headers, await readText(event, LARGEST_BODY.anyone))
    return {}
  } catch (error) {
    return answerError(event, error)
  }
})
