import { readToken, signedToken } from './addresses'
import { env } from '../../environment'

/** The purpose of a token of a click, with the address it leads to: so it leads nowhere else. */
const purpose = (url: string) => `click ${url}`

/** The address of ours that counts a click on a link of an email and leads on to it. */
export const clickAddress = (messageId: string, url: string): string =>
  `${env().url}/c/${signedToken(purpose(url), messageId)}?to=${encodeURIComponent(url)}`

/** The email whose link leads to an address, by its token; null for one that we did not make. */
export const messageOfClick = (token: string, url: string): string | null => readToken(purpose(url), token)
