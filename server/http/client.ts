import { getHeader, type H3Event } from 'h3'

/** Whether an address is this machine's own. */
function isLoopback(address: string): boolean {
  return address === '::1' || /^(::ffff:)?127\./.test(address)
}

/**
 * The address a request comes from. Behind a reverse proxy on this machine it is the last one the proxy has written
 * into X-Forwarded-For; what others write there is not believed.
 */
export function clientAddress(event: H3Event): string {
  const peer = event.node.req.socket.remoteAddress ?? ''
  if (!isLoopback(peer)) return peer
  return getHeader(event, 'x-forwarded-for')?.split(',').at(-1)?.trim().slice(0, 64) || peer
}
