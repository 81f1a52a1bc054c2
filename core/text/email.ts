/**
 * The form under which an address is kept and compared: trimmed, lower case, the domain in its ASCII form left as
 * given. Null where it is no address mail can be sent to (RFC 5321 sizes: 64 before the @, 254 in all; the dot-atom of
 * RFC 5322 before the @, quoted forms are refused as nobody's real address).
 */
export function normalizeEmail(raw: string): string | null {
  const text = raw
    .trim()
    .replace(/^mailto:/i, '')
    .replace(/^<(.*)>$/, '$1')
    .toLowerCase()
  if (text.length > 254) return null
  const match =
    /^([a-z0-9!#$%&'*+/=?^_`{|}~\-\u00a1-\uffff]+(?:\.[a-z0-9!#$%&'*+/=?^_`{|}~\-\u00a1-\uffff]+)*)@((?:[a-z0-9\u00a1-\uffff](?:[a-z0-9\-\u00a1-\uffff]{0,61}[a-z0-9\u00a1-\uffff])?\.)+[a-z\u00a1-\uffff][a-z0-9\-\u00a1-\uffff]{1,62})$/.exec(
      text,
    )
  return match && match[1]!.length <= 64 ? text : null
}

/** The part after the @ of a normalized address. */
export function emailDomain(address: string): string {
  return address.slice(address.lastIndexOf('@') + 1)
}

/**
 * A site's or address's bare domain: "https://www.marlpit.example/about" gives "marlpit.example". Null where there is
 * none.
 */
export function bareDomain(raw: string): string | null {
  const text = raw
    .trim()
    .toLowerCase()
    .replace(/^[a-z][a-z0-9+.-]*:\/\//, '')
    .replace(/^www\./, '')
    .split(/[/?#:]/)[0]!
  return /^(?:[a-z0-9\u00a1-\uffff](?:[a-z0-9\-\u00a1-\uffff]{0,61}[a-z0-9\u00a1-\uffff])?\.)+[a-z\u00a1-\uffff][a-z0-9\-\u00a1-\uffff]{1,62}$/.test(
    text,
  )
    ? text
    : null
}
