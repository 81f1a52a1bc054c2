import { manages, onlyCalls } from '#core/roles'
import {
  defineEventHandler,
  getCookie,
  getHeader,
  getQuery,
  getRouterParams,
  getResponseStatus,
  setResponseHeader,
  setResponseStatus,
  type EventHandler,
  type H3Event,
} from 'h3'
import { z } from 'zod'
import type { Endpoint, ErrorAnswer } from '#shared/api/endpoint'
import { newId } from '#shared/newId'
import { AlreadyRecorded } from '../engine/recordEvents'
import { UndoRefused } from '../engine/undo'
import { isUnreachable, type Db } from '../db/pool'
import { env } from '../environment'
import { log, loggable } from '../log'
import { Refusal } from '../services/access/errors'
import { viewerOfKey, viewerOfToken } from '../services/access/sessions'
import { type Viewer } from '../services/access/viewer'
import { LARGEST_BODY, readJsonBody } from './body'
import { clientAddress } from './client'
import { observeRequest } from './metrics'
import { countRequest } from './rateLimit'

export const COOKIE = '__Host-uphill'

/** What a route is given: everything checked, and who asks. */
export interface Asked<E extends Endpoint, V = Viewer> {
  params: z.output<E['params']>
  query: z.output<E['query']>
  body: z.output<E['body']>
  viewer: V
  event: H3Event
}

type ViewerOf<E extends Endpoint> = E['access'] extends 'anyone' ? Viewer | null : Viewer
type Answer<E extends Endpoint> = Promise<z.input<E['response']> | void> | z.input<E['response']> | void

/** Asks who the caller is, through the connection given; refuses callers whom the endpoint is not for. */
export type AskWho = (on?: Db) => Promise<Viewer>

/**
 * A route: checks who asks, the origin of writes and every part of the request against its endpoint, calls `work`, and
 * answers errors in one shape. With `raw` the body is left to the route.
 */
export function answer<E extends Endpoint>(
  endpoint: E,
  work: (asked: Asked<E, ViewerOf<E>>) => Answer<E>,
  { raw = false }: { raw?: boolean } = {},
): EventHandler {
  return route(endpoint, async (event) => {
    const viewer = await (endpoint.access === 'anyone' ? viewerOf(event) : askWho(endpoint, event)())
    return work({ ...(await readRequest(endpoint, event, raw)), viewer, event } as Asked<E, ViewerOf<E>>)
  })
}

/**
 * A route whose work asks who the caller is by itself, together with what it reads first, so that this costs no wait of
 * its own. The work must ask before it changes or tells anything.
 */
export function answerInOneGo<E extends Endpoint>(
  endpoint: E,
  work: (asked: Asked<E, AskWho>) => Answer<E>,
): EventHandler {
  return route(endpoint, async (event) => {
    if (!credentialOf(event)) throw notSignedIn()
    return work({ ...(await readRequest(endpoint, event, false)), viewer: askWho(endpoint, event), event } as Asked<
      E,
      AskWho
    >)
  })
}

function route(endpoint: Endpoint, work: (event: H3Event) => Promise<unknown>): EventHandler {
  return defineEventHandler(async (event) => {
    const started = performance.now()
    const requestId = requestIdOf(event)
    setResponseHeader(event, 'x-request-id', requestId)
    try {
      setResponseHeader(event, 'cache-control', 'no-store')
      setResponseHeader(event, 'x-content-type-options', 'nosniff')
      if (endpoint.method !== 'get') checkOrigin(event)
      const shown = credentialOf(event)
      await countRequest(shown ? { user: 'key' in shown ? shown.key : shown.token } : { address: clientAddress(event) })
      const answered = await work(event)
      // What streams its answer has begun to send it.
      return event.handled ? undefined : (answered ?? {})
    } catch (error) {
      return answerError(event, error, requestId)
    } finally {
      const ms = performance.now() - started
      const status = getResponseStatus(event)
      observeRequest(endpoint, status, ms)
      log.debug({ requestId, method: endpoint.method, route: endpoint.path, status, ms: Math.round(ms) }, 'request')
    }
  })
}

/** The id of a request in the log and the answer: the one a proxy in front gave it, else a new one. */
function requestIdOf(event: H3Event): string {
  const given = getHeader(event, 'x-request-id')
  return given && /^[\w-]{8,64}$/.test(given) ? given : newId()
}

async function readRequest(
  endpoint: Endpoint,
  event: H3Event,
  raw: boolean,
): Promise<{ params: unknown; query: unknown; body: unknown }> {
  return {
    params: check(endpoint.params, getRouterParams(event, { decode: true })),
    query: check(endpoint.query, getQuery(event)),
    body:
      endpoint.method === 'get' || raw
        ? {}
        : check(
            endpoint.body,
            await readJsonBody(event, endpoint.access === 'anyone' ? LARGEST_BODY.anyone : LARGEST_BODY.signedIn),
          ),
  }
}

function check<S extends z.ZodType>(schema: S, value: unknown): z.output<S> {
  const read = schema.safeParse(value, { error: (issue) => (issue.input === undefined ? 'Required' : undefined) })
  if (read.success) return read.data
  const problems = read.error.issues.map((issue) => ({ field: issue.path.join('.'), message: issue.message }))
  throw new Refusal(
    'invalid',
    problems.map((problem) => (problem.field ? `${problem.field}: ${problem.message}` : problem.message)).join('. '),
    problems,
  )
}

/**
 * Writes from a browser must come from our own pages: the session cookie alone proves nothing about who wrote the page.
 * A browser that says nothing of where a write comes from is not believed either; programs show a key and need no
 * origin.
 */
function checkOrigin(event: H3Event): void {
  const shown = credentialOf(event)
  const origin = getHeader(event, 'origin')
  const blocked = () => new Refusal('not_allowed', 'Cross-site request blocked')
  if (!origin) {
    if (shown && 'token' in shown && getHeader(event, 'sec-fetch-site') !== 'same-origin') throw blocked()
    return
  }
  const host = getHeader(event, 'host')
  if (origin !== env().url && (!URL.canParse(origin) || new URL(origin).host !== host)) throw blocked()
}

/** What the caller shows to be known by: the key of a program, or the cookie of a session. */
function credentialOf(event: H3Event): { key: string } | { token: string } | null {
  const key = /^Bearer\s+(\S+)$/i.exec(getHeader(event, 'authorization') ?? '')?.[1]
  if (key) return { key }
  const token = getCookie(event, COOKIE)
  return token ? { token } : null
}

async function viewerOf(event: H3Event, on?: Db): Promise<Viewer | null> {
  const shown = credentialOf(event)
  return shown && ('key' in shown ? viewerOfKey(shown.key, on) : viewerOfToken(shown.token, on))
}

const notSignedIn = () => new Refusal('not_signed_in', 'Sign in first')

function askWho(endpoint: Endpoint, event: H3Event): AskWho {
  return async (on) => {
    const viewer = await viewerOf(event, on)
    if (!viewer) throw notSignedIn()
    checkRights(endpoint, viewer)
    return viewer
  }
}

/** What may be done while a temporary password has not been changed. */
const WITH_TEMPORARY_PASSWORD = new Set(['/api/session', '/api/account/password'])

/**
 * Throws where the endpoint is not for the viewer: for managers only, beyond the rights of the key, or a temporary
 * password has to be changed first.
 */
function checkRights(endpoint: Endpoint, viewer: Viewer): void {
  if (endpoint.access === 'manager' && !manages(viewer)) {
    throw new Refusal('not_allowed', 'Only a manager may do this')
  }
  if (onlyCalls(viewer) && endpoint.access !== 'anyone' && !endpoint.callers) {
    throw new Refusal('not_allowed', 'Callers see only their call blocks and to-dos')
  }
  if (viewer.mustChangePassword && !WITH_TEMPORARY_PASSWORD.has(endpoint.path)) {
    throw new Refusal('password_change_needed', 'Change your temporary password first')
  }
  if (viewer.rights === 'read' && endpoint.method !== 'get' && !endpoint.readsOnly) {
    throw new Refusal('not_allowed', 'This API key may only read')
  }
  if (viewer.rights && viewer.rights !== 'manage' && endpoint.access === 'manager') {
    throw new Refusal('not_allowed', 'This API key may not manage')
  }
  if (viewer.rights && endpoint.path.startsWith('/api/account')) {
    throw new Refusal('not_allowed', 'An API key cannot change an account')
  }
}

/** Answers an error in the one shape. What nobody expected is written to the log and answered without detail. */
export function answerError(event: H3Event, error: unknown, requestId?: string): ErrorAnswer {
  const refusal = asRefusal(error)
  if (refusal.code === 'failed') log.error({ requestId, error: loggable(error) }, 'request failed')
  if (refusal.retryAfter !== undefined) setResponseHeader(event, 'retry-after', refusal.retryAfter)
  setResponseStatus(event, refusal.status)
  return {
    error: {
      code: refusal.code,
      message: refusal.message,
      problems: [...refusal.problems],
      ...(refusal.current !== undefined && { current: refusal.current }),
    },
  }
}

/** PostgreSQL's codes for a statement that ran out of its time, and for text that no database can hold. */
const QUERY_CANCELED = '57014'
const BAD_TEXT = new Set(['22021', '22P05'])
/** And for values that are none of their type: a cursor that is not ours, a number beyond every bound. */
const BAD_VALUE = new Set(['22P02', '22003', '22007', '22008', '22023'])

function asRefusal(error: unknown): Refusal {
  if (error instanceof Refusal) return error
  if (error instanceof AlreadyRecorded) return new Refusal('already_done', error.message)
  if (error instanceof UndoRefused) return new Refusal('refused', error.message)
  if ((error as { code?: string }).code === QUERY_CANCELED) {
    return new Refusal('timed_out', 'This takes too long to answer. Narrow it down and try again')
  }
  if (BAD_TEXT.has((error as { code?: string }).code ?? '')) {
    return new Refusal('invalid', 'The request contains characters that cannot be saved')
  }
  if (BAD_VALUE.has((error as { code?: string }).code ?? '')) {
    return new Refusal('invalid', 'The request contains a value that cannot be read')
  }
  if (isUnreachable(error)) {
    return new Refusal(
      'unavailable',
      'The database cannot be reached just now. Nothing was lost; try again in a moment',
    )
  }
  return new Refusal('failed', 'Something went wrong. It has been logged; try again')
}
