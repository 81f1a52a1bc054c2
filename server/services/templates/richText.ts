import { compile } from 'html-to-text'
import sanitizeHtml from 'sanitize-html'
import { isPlain } from '#core/text/html'

/** What an email’s text may be made of. */
const ALLOWED: sanitizeHtml.IOptions = {
  allowedTags: ['p', 'br', 'strong', 'em', 'u', 's', 'ul', 'ol', 'li', 'a', 'img', 'blockquote', 'h2', 'h3'],
  allowedAttributes: { a: ['href'], img: ['src', 'alt', 'width'], ol: ['start'] },
  allowedSchemes: ['http', 'https', 'mailto', 'tel'],
  allowedSchemesByTag: { img: ['https'] },
  transformTags: { b: 'strong', i: 'em', h1: 'h2' },
}

/** HTML without anything that an email’s text is not made of: scripts, styles, other people’s markup. */
export const sanitized = (html: string): string => sanitizeHtml(html, ALLOWED)

const toText = compile({
  wordwrap: false,
  selectors: [
    { selector: 'a', options: { linkBrackets: ['(', ')'], hideLinkHrefIfSameAsText: true } },
    { selector: 'ul', options: { itemPrefix: '- ' } },
    { selector: 'img', format: 'skip' },
    { selector: 'h2', options: { uppercase: false } },
    { selector: 'h3', options: { uppercase: false } },
  ],
})

/**
 * An email’s text in its two forms: with formatting, and the plain text that says the same. What came without
 * formatting, or has none, is plain text alone.
 */
export function bothForms<T extends { body: string; html: string | null }>(given: T): T {
  if (!given.html) return { ...given, html: null }
  const html = sanitized(given.html)
  return {
    ...given,
    body: toText(html)
      .replace(/\n{3,}/g, '\n\n')
      .trim(),
    html: isPlain(html) ? null : html,
  }
}
