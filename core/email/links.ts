/** Where links stand in HTML that we made: the address within the quotes. */
const LINK = /(<a\b[^>]*?\bhref=")(https?:\/\/[^"]+)(")/gi
const AMP = /&amp;/g

/** HTML whose links lead elsewhere first, but for those that `stays` names (without entities). */
export const withLinks = (
  html: string,
  addressOf: (url: string) => string,
  stays: (url: string) => boolean = () => false,
): string =>
  html.replace(LINK, (whole: string, before: string, given: string, after: string) => {
    const url = given.replace(AMP, '&')
    return stays(url) ? whole : before + addressOf(url).replaceAll('&', '&amp;') + after
  })
