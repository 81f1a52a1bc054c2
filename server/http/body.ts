import { getHeader, setResponseHeader, type H3Event } from 'h3'
import { Refusal } from '../services/access/errors'

/** The largest body of a request, in bytes: signed in, and before anyone has signed in. */
export const LARGEST_BODY = { signedIn: 2_000_000, anyone: 20_000 }

/**
 * Reads a request's body as JSON; {} for an empty one. It is refused while it is read, as soon as it exceeds the limit.
 */
export async function readJsonBody(event: H3Event, limit: number): Promise<unknown> {
  const raw = await readBody(event, limit)
  if (!raw.length) return {}
  try {
    return JSON.parse(raw.toString('utf8'))
  } catch {
    throw new Refusal('invalid', 'The request body is not JSON')
  }
}

/** Reads a request's body as it is, where its bytes are signed. Refused as `readJsonBody` does. */
export async function readText(event: H3Event, limit: number): Promise<string> {
  return (await readBody(event, limit)).toString('utf8')
}

function tooLarge(event: H3Event): Refusal {
  // What is still being sent is not read: the connection cannot be used again.
  setResponseHeader(event, 'connection', 'close')
  return new Refusal('too_large', 'The request is too large')
}

async function readBody(event: H3Event, limit: number): Promise<Buffer> {
  if (Number(getHeader(event, 'content-length') ?? 0) > limit) throw tooLarge(event)
  const request = event.node.req
  const chunks: Buffer[] = []
  let size = 0
  return new Promise((resolve, reject) => {
    const stop = () => request.off('data', take).off('end', end).off('error', reject)
    const take = (chunk: Buffer) => {
      size += chunk.length
      if (size <= limit) return void chunks.push(chunk)
      stop()
      request.pause()
      reject(tooLarge(event))
    }
    const end = () => {
      stop()
      resolve(Buffer.concat(chunks))
    }
    request.on('data', take).once('end', end).once('error', reject)
  })
}
