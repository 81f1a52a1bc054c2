import type { z } from 'zod'
import type { Endpoint, ErrorAnswer } from '#shared/api/endpoint'

/** What the server said when something was not done: a sentence, what is wrong where, and what holds now. */
export class ApiError extends Error {
  constructor(
    readonly code: ErrorAnswer['error']['code'],
    message: string,
    readonly problems: readonly { field: string; message: string }[] = [],
    readonly current?: unknown,
  ) {
    super(message)
  }

  /** The message at a field of the request, for the control that holds it. */
  at(field: string): string | undefined {
    return this.problems.find((problem) => problem.field === field)?.message
  }
}

/** What the server said of a failure, or what is to be said instead; empty where nothing failed. */
export function messageOf(error: unknown, otherwise: string): string {
  if (!error) return ''
  return error instanceof ApiError ? error.message : otherwise
}

/** What is given to an endpoint, as it is before it is checked. */
export type Given<E extends Endpoint> = {
  params?: z.input<E['params']>
  query?: z.input<E['query']>
  body?: z.input<E['body']>
  signal?: AbortSignal
}

let onSignedOut: () => void = () => {}

/** Says what is to happen when a session has ended: whatever was typed stays where it is. */
export function whenSignedOut(act: () => void): void {
  onSignedOut = act
}

function address(path: string, params: Record<string, unknown> = {}, query: Record<string, unknown> = {}): string {
  const filled = path.replace(/\{(\w+)\}/g, (_, name: string) => encodeURIComponent(String(params[name])))
  const asked = Object.entries(query).filter(([, value]) => value !== undefined && value !== '')
  return asked.length ? `${filled}?${new URLSearchParams(asked.map(([name, value]) => [name, String(value)]))}` : filled
}

const unreachable = () =>
  new ApiError('unavailable', 'Uphill cannot be reached just now. Nothing you typed is lost; try again in a moment')

async function answered(response: Response, silent: boolean): Promise<unknown> {
  const body =
    response.status === 204
      ? null
      : ((await response.json().catch((error: Error) => {
          // An answer that is aborted, or breaks off halfway, is no answer.
          if (error.name === 'AbortError') throw error
          if (response.ok) throw unreachable()
          return null
        })) as ErrorAnswer | null)
  if (response.ok) return body
  if (response.status === 401 && !silent) onSignedOut()
  const error = body?.error
  throw new ApiError(
    error?.code ?? 'failed',
    error?.message ?? 'The server gave no reason',
    error?.problems,
    error?.current,
  )
}

/**
 * Ids of what was sent and never answered, by what was sent: sent once more, it goes under the same id, and so is done
 * once.
 */
const unanswered = new Map<string, string>()

/** What a call means to do, whatever its id; null for one without an id of its own. */
function intentionOf(endpoint: Endpoint, given: { params?: unknown; body?: unknown }): string | null {
  const { body } = given as { body?: Record<string, unknown> }
  if (endpoint.method === 'get' || typeof body?.id !== 'string') return null
  const { id: _, ...rest } = body
  return JSON.stringify([endpoint.method, endpoint.path, given.params, rest])
}

/**
 * Calls an endpoint. Throws ApiError, also where the server cannot be reached. What was sent before without an answer
 * is sent under the id it had (put into `given.body`); where it turns out to have been done, that is the answer.
 */
export async function call<E extends Endpoint>(endpoint: E, given: Given<E> = {}): Promise<z.output<E['response']>> {
  const intention = intentionOf(endpoint, given)
  const body = given.body as { id: string } | undefined
  const before = intention === null ? undefined : unanswered.get(intention)
  if (before && body) body.id = before
  try {
    const result = await send(endpoint, given)
    if (intention !== null) unanswered.delete(intention)
    return result
  } catch (error) {
    if (!(error instanceof ApiError) || intention === null) throw error
    if (error.code === 'unavailable') unanswered.set(intention, body!.id)
    else unanswered.delete(intention)
    if (error.code === 'already_done' && before) {
      return { id: before, summary: 'It had gone through.' } as z.output<E['response']>
    }
    throw error
  }
}

async function send<E extends Endpoint>(endpoint: E, given: Given<E>): Promise<z.output<E['response']>> {
  const hasBody = given.body !== undefined
  const response = await fetch(
    address(endpoint.path, given.params as Record<string, unknown>, given.query as Record<string, unknown>),
    {
      method: endpoint.method.toUpperCase(),
      signal: given.signal,
      ...(hasBody && { body: JSON.stringify(given.body), headers: { 'content-type': 'application/json' } }),
    },
  ).catch((error: Error) => {
    if (error.name === 'AbortError') throw error
    throw unreachable()
  })
  return (await answered(response, endpoint.path === '/api/session')) as z.output<E['response']>
}

/** Hands over a file as it is, telling how much has gone. Throws ApiError. */
export function upload(path: string, file: File, progress: (share: number) => void): Promise<unknown> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest()
    request.open('POST', path)
    request.setRequestHeader('content-type', 'application/octet-stream')
    request.upload.onprogress = (event) => progress(event.lengthComputable ? event.loaded / event.total : 0)
    request.onerror = () => reject(new ApiError('unavailable', 'The file did not get through. Try again in a moment'))
    request.onload = () =>
      answered(new Response(request.responseText, { status: request.status }), false).then(resolve, reject)
    request.send(file)
  })
}
