import { randomBytes } from 'node:crypto'
import { setResponseHeaders, type H3Event } from 'h3'
import type { NitroApp } from 'nitropack'
import { env } from '../environment'

/** What every answer carries (OWASP ASVS 5.0, 3.4): nothing is sniffed, framed, or passed to other sites. */
const HEADERS = {
  'x-content-type-options': 'nosniff',
  'referrer-policy': 'same-origin',
  'x-frame-options': 'DENY',
  'cross-origin-opener-policy': 'same-origin',
  'permissions-policy': 'camera=(), geolocation=(), microphone=(self), payment=(), usb=()',
}

/** What a page may load: our own files, and inline scripts and styles only with this answer's nonce. */
function contentPolicy(nonce: string): string {
  return [
    `default-src 'self'`,
    `script-src 'self' 'nonce-${nonce}'`,
    `style-src 'self' 'nonce-${nonce}'`,
    `img-src 'self' data:`,
    `font-src 'self' data:`,
    `connect-src 'self'`,
    `object-src 'none'`,
    `base-uri 'none'`,
    `form-action 'self'`,
    `frame-ancestors 'none'`,
  ].join('; ')
}

interface Page {
  body?: unknown
  headers?: Record<string, string>
}

/** Gives every answer its security headers, and every page a content security policy with a nonce of its own. */
export default (nitro: NitroApp) => {
  nitro.hooks.hook('request', (event: H3Event) => {
    setResponseHeaders(event, HEADERS)
    if (env().url.startsWith('https:')) {
      setResponseHeaders(event, { 'strict-transport-security': 'max-age=31536000; includeSubDomains' })
    }
  })
  nitro.hooks.hook(
    'render:response' as never,
    ((response: Page) => {
      if (typeof response.body !== 'string') return
      const nonce = randomBytes(16).toString('base64')
      response.body = response.body
        .replace(/<(script|style)(?=[\s>])/g, `<$1 nonce="${nonce}"`)
        .replace('<head>', `<head><meta name="csp-nonce" content="${nonce}">`)
      response.headers = {
        ...response.headers,
        'content-security-policy': contentPolicy(nonce),
        'cache-control': 'no-cache',
      }
      delete response.headers['x-powered-by']
    }) as never,
  )
}
