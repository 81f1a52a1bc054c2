import { defineEventHandler, getCookie, getHeader, getQuery, getRouterParams, readRawBody, setResponseHeader, setResponseStatus, type EventHandler, type H3Event } from 'h3'
import { z } from 'zod'
import type { Endpoint, ErrorAnswer } from '#shared/api/endpoint'
import { AlreadyTold } from '../engine/happen'
import { UndoRefused } from '../engine/undo'
import { isUnreachable } from '../db/pool'
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

/**
 * A route: checks who asks, the origin of writes and every part of the request against its endpoint, calls `work`, and
 * answers errors in one shape. With `raw` the body is left to the route.
 */
export function answer<E extends Endpoint>(endpoint: E, work: (asked: Asked<E, ViewerOf<E>>) => Promise<z.input<E['response']> | void> | z.input<E['response']> | void, options: { raw?: boolean } = {}): EventHandler {
  return defineEventHandler(async (event) => {
    try {
      setResponseHeader(event, 'cache-control', 'no-store')
      if (endpoint.method !== 'get') checkOrigin(event)
      const viewer = await viewerOf(event)
      if (endpoint.audience !== 'anyone' && !viewer) throw new Refusal('not_signed_in', 'Sign in first')
      if (endpoint.audience === 'manager' && viewer?.role === 'rep') throw new Refusal('not_allowed', 'Only a manager may do this')
      const params = check(endpoint.params, getRouterParams(event, { decode: true }))
      const query = check(endpoint.query, getQuery(event))
      const body = endpoint.method === 'get' || options.raw ? {} : check(endpoint.body, await readJson(event))
      return await work({ params, query, body, viewer, event } as Asked<E, ViewerOf<E>>) ?? {}
    }
    catch (error) {
      return answerError(event, error)
    }
  })
}

function check<S extends z.ZodType>(schema: S, value: unknown): z.output<S> {
  const read = schema.safeParse(value)
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
  if (origin !== env().url && new URL(origin).host !== host) throw new Refusal('not_allowed', 'This request comes from another site')
}

async function viewerOf(event: H3Event): Promise<Viewer | null> {
  const bearer = /^Bearer\s+(\S+)$/i.exec(getHeader(event, 'authorization') ?? '')?.[1]
  if (bearer) return viewerOfKey(bearer)
  const token = getCookie(event, COOKIE)
  return token ? viewerOfToken(token) : null
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
