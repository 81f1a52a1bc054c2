import { defineEventHandler, getCookie, getHeader, getQuery, getRouterParams, readRawBody, setResponseHeader, setResponseStatus, type EventHandler, type H3Event } from 'h3'
import { z } from 'zod'
import type { Endpoint, ErrorAnswer } from '#shared/api/endpoint'
import { AlreadyTold } from '../engine/happen'
import { UndoRefused } from '../engine/undo'
import { isUnreachable, type Db } from '../db/pool'
import { env } from '../environment'
import { Refusal } from '../services/errors'
import { viewerOfKey, viewerOfToken, type Viewer } from '../services/sessions'

export const COOKIE = '__Host-uphill'
const MOST_BODY = 2_000_000

/** What a route is given: everything checked, and who asks. */
export interface Asked<E extends Endpoint, V = Viewer> {
  params: z.output<E['params']>
  query: z.output<E['query']>
  body: z.output<E['body']>
  viewer: V
  event: H3Event
}

type ViewerOf<E extends Endpoint> = E['audience'] extends 'anyone' ? Viewer | null : Viewer
type Answer<E extends Endpoint> = Promise<z.input<E['response']> | void> | z.input<E['response']> | void

/** Asks who the caller is, through the connection given; refuses whoever the endpoint is not for. */
export type AskWho = (on?: Db) => Promise<Viewer>

/**
 * A route: checks who asks, the origin of writes and every part of the request against its endpoint, calls `work`, and
 * answers errors in one shape. With `raw` the body is left to the route.
 */
export function answer<E extends Endpoint>(endpoint: E, work: (asked: Asked<E, ViewerOf<E>>) => Answer<E>, { raw = false }: { raw?: boolean } = {}): EventHandler {
  return route(endpoint, async (event) => {
    const viewer = await (endpoint.audience === 'anyone' ? viewerOf(event) : askWho(endpoint, event)())
    return work({ ...await readRequest(endpoint, event, raw), viewer, event } as Asked<E, ViewerOf<E>>)
  })
}

/**
 * A route whose work asks who the caller is by itself, together with what it reads first, so that this costs no wait of
 * its own. The work must ask before it changes or tells anything.
 */
export function answerInOneGo<E extends Endpoint>(endpoint: E, work: (asked: Asked<E, AskWho>) => Answer<E>): EventHandler {
  return route(endpoint, async (event) => {
    if (!credentialOf(event)) throw notSignedIn()
    return work({ ...await readRequest(endpoint, event, false), viewer: askWho(endpoint, event), event } as Asked<E, AskWho>)
  })
}

function route(endpoint: Endpoint, work: (event: H3Event) => Promise<unknown>): EventHandler {
  return defineEventHandler(async (event) => {
    try {
      setResponseHeader(event, 'cache-control', 'no-store')
      if (endpoint.method !== 'get') checkOrigin(event)
      return await work(event) ?? {}
    }
    catch (error) {
      return answerError(event, error)
    }
  })
}

async function readRequest(endpoint: Endpoint, event: H3Event, raw: boolean): Promise<{ params: unknown, query: unknown, body: unknown }> {
  return {
    params: check(endpoint.params, getRouterParams(event, { decode: true })),
    query: check(endpoint.query, getQuery(event)),
    body: endpoint.method === 'get' || raw ? {} : check(endpoint.body, await readJson(event)),
  }
}

function check<S extends z.ZodType>(schema: S, value: unknown): z.output<S> {
  const read = schema.safeParse(value, { error: issue => issue.input === undefined ? 'This is needed' : undefined })
  if (read.success) return read.data
  const problems = read.error.issues.map(issue => ({ field: issue.path.join('.'), message: issue.message }))
  throw new Refusal('invalid', problems.map(problem => problem.field ? `${problem.field}: ${problem.message}` : problem.message).join('. '), problems)
}

async function readJson(event: H3Event): Promise<unknown> {
  if (Number(getHeader(event, 'content-length') ?? 0) > MOST_BODY) throw new Refusal('too_large', 'The request is too large')
  const raw = await readRawBody(event)
  if (!raw) return {}
  if (raw.length > MOST_BODY) throw new Refusal('too_large', 'The request is too large')
  try {
    return JSON.parse(raw)
  }
  catch {
    throw new Refusal('invalid', 'The request body is not JSON')
  }
}

/** Writes from a browser must come from our own pages: the session cookie alone proves nothing about who wrote the page. */
function checkOrigin(event: H3Event): void {
  const origin = getHeader(event, 'origin')
  if (!origin) return
  const host = getHeader(event, 'host')
  if (origin !== env().url && (!URL.canParse(origin) || new URL(origin).host !== host)) throw new Refusal('not_allowed', 'This request comes from another site')
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
    if (endpoint.audience === 'manager' && viewer.role === 'rep') throw new Refusal('not_allowed', 'Only a manager may do this')
    return viewer
  }
}

/** Answers an error in the one shape. What nobody expected is written to the log and told without detail. */
export function answerError(event: H3Event, error: unknown): ErrorAnswer {
  const refusal = asRefusal(error)
  if (refusal.code === 'failed') console.error(`${event.method} ${event.path}:`, error)
  setResponseStatus(event, refusal.status)
  return { error: { code: refusal.code, message: refusal.message, problems: [...refusal.problems], ...(refusal.current !== undefined && { current: refusal.current }) } }
}

function asRefusal(error: unknown): Refusal {
  if (error instanceof Refusal) return error
  if (error instanceof AlreadyTold) return new Refusal('conflict', error.message)
  if (error instanceof UndoRefused) return new Refusal('refused', error.message)
  if (isUnreachable(error)) return new Refusal('unavailable', 'The database cannot be reached just now. Nothing was lost; try again in a moment')
  return new Refusal('failed', 'Something went wrong here. It has been written down; try again')
}
