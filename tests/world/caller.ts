import { expect } from 'vitest'
import { errorSchema, type Endpoint, type ErrorAnswer } from '../../shared/api/endpoint'
import { addKey, type Viewer } from '../../server/services/sessions'
import type { z } from 'zod'

type Given<E extends Endpoint> = {
  params?: Record<string, string>
  query?: Record<string, string | number>
  body?: z.input<E['body']>
}

/** Somebody who calls the API with a key of their own, over HTTP. */
export interface Caller {
  /** Calls an endpoint; the answer is held to the shape it promises. */
  ok<E extends Endpoint>(endpoint: E, given?: Given<E>): Promise<z.output<E['response']>>
  /** Calls an endpoint that must refuse, and gives the error. */
  refused<E extends Endpoint>(
    endpoint: E,
    status: number,
    given?: { params?: Record<string, string>; query?: Record<string, unknown>; body?: unknown },
  ): Promise<ErrorAnswer['error']>
}

export async function caller(url: string, viewer: Viewer): Promise<Caller> {
  const { key } = await addKey(viewer, 'test')
  const send = async (
    endpoint: Endpoint,
    given: { params?: Record<string, string>; query?: Record<string, unknown>; body?: unknown },
  ) => {
    const path = endpoint.path.replace(/\{(\w+)\}/g, (_, name: string) =>
      encodeURIComponent(given.params?.[name] ?? ''),
    )
    const query = new URLSearchParams(
      Object.entries(given.query ?? {}).map(([name, value]) => [name, String(value)]),
    ).toString()
    const response = await fetch(`${url}${path}${query ? `?${query}` : ''}`, {
      method: endpoint.method.toUpperCase(),
      headers: { authorization: `Bearer ${key}`, 'content-type': 'application/json' },
      ...(endpoint.method !== 'get' && { body: JSON.stringify(given.body ?? {}) }),
    })
    return {
      status: response.status,
      body: (response.headers.get('content-type')?.includes('json')
        ? await response.json()
        : await response.text()) as unknown,
    }
  }
  return {
    async ok(endpoint, given = {}) {
      const { status, body } = await send(endpoint, given)
      expect({ status, body: status === 200 ? null : body }).toEqual({ status: 200, body: null })
      return endpoint.response.parse(body) as never
    },
    async refused(endpoint, status, given = {}) {
      const answer = await send(endpoint, given)
      expect({ status: answer.status, body: answer.body }).toMatchObject({ status })
      return errorSchema.parse(answer.body).error
    },
  }
}
