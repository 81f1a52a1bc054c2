import type { DateStyle, DialerKind, KeyRights } from '#core/enumerations'
import type { Reader } from '#core/engine/explain'
import type { Instant } from '#core/instant'
import type { User } from '#shared/api/session'

/** Who asks: a user, by a session or an API key. */
export interface Viewer extends User {
  dateStyle: DateStyle
  /** Whether a temporary password has to be changed before anything else. */
  mustChangePassword: boolean
  /** Whether everyone's people are to be seen: managers, and reps of a team that shares all. */
  seesAll: boolean
  /** The session's key in the database; null for an API key. */
  session: Buffer | null
  /** What ends their emails; absent or empty for none. */
  signature?: string
  /** How they call; absent for the dialer. */
  callsWith?: DialerKind
  /** Whether notifications are emailed to them. */
  notifyByEmail?: boolean
  /** What the API key may do; absent for a session, which may do whatever its user may. */
  rights?: KeyRights
}

/** The viewer as the reader of a sentence written now. */
export function readerOf({ timeZone, dateStyle }: Viewer, now: Instant): Reader {
  return { timeZone, dateStyle, now }
}
