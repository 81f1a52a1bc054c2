import { defineEventHandler, getHeader, getRouterParam, setResponseHeader, setResponseStatus, type H3Event } from 'h3'
import { newId } from '#shared/newId'
import { answerError } from '../../http/answer'
import { LARGEST_BODY, readText } from '../../http/body'
import { clientAddress } from '../../http/client'
import { countRequest } from '../../http/rateLimit'
import { notFound, Refusal } from '../../services/access/errors'
import { closedPage, formPage, refusedPage, thanksPage } from '../../services/forms/formPage'
import { formAt } from '../../services/forms/forms'
import { takeForm, type Given } from '../../services/forms/receive'

const isId = (text: unknown): text is string =>
  typeof text === 'string' && /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/i.test(text)

/** What was sent, as a browser's form or as JSON of the same names. */
async function readGiven(event: H3Event, isJson: boolean): Promise<Given> {
  const raw = await readText(event, LARGEST_BODY.anyone)
  if (!isJson) {
    const params = new URLSearchParams(raw)
    return Object.fromEntries(
      [...new Set(params.keys())].map((key) => {
        const values = params.getAll(key)
        return [key, values.length > 1 ? values : values[0]!]
      }),
    )
  }
  const read = await Promise.resolve(raw)
    .then((text) => JSON.parse(text) as unknown)
    .catch(() => null)
  if (typeof read !== 'object' || read === null) throw new Refusal('invalid', 'The request body is not JSON')
  const texts = Object.entries(read).map(([key, value]) => {
    return [key, Array.isArray(value) ? value.map(String) : String(value ?? '')]
  })
  return Object.fromEntries(texts) as Given
}

/**
 * A form on the web: shown on GET, taken on POST, from anyone, also from a form on another site or as JSON from its
 * server. A browser gets a page, who sends JSON gets JSON.
 */
export default defineEventHandler(async (event) => {
  const isJson = (getHeader(event, 'content-type') ?? '').startsWith('application/json')
  setResponseHeader(event, 'cache-control', 'no-store')
  if (!isJson) setResponseHeader(event, 'content-type', 'text/html; charset=utf-8')
  try {
    await countRequest({ address: clientAddress(event) })
    const form = await formAt(getRouterParam(event, 'key') ?? '')
    if (!form) {
      if (isJson) throw notFound('form')
      setResponseStatus(event, 404)
      return closedPage()
    }
    if (event.method !== 'POST') return formPage(form, newId())
    const given = await readGiven(event, isJson)
    const id = isId(given.submission_id) ? given.submission_id.toLowerCase() : newId()
    try {
      await takeForm(form, id, given)
      return isJson ? { id } : thanksPage(form)
    } catch (error) {
      if (isJson || !(error instanceof Refusal) || !error.problems.length) throw error
      setResponseStatus(event, 400)
      const problems = new Map(error.problems.map(({ field, message }) => [field, message]))
      return formPage(form, id, given, problems)
    }
  } catch (error) {
    const answered = answerError(event, error)
    return isJson || !(error instanceof Refusal) ? answered : refusedPage(error.message)
  }
})
