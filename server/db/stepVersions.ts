import { sql } from './sql'

/**
 * SQL: whether steps by one alias are of the version of the cadence that the step by the other belongs to: the cadence
 * as it is now, or an earlier version that people finish.
 */
export const sameVersion = (steps: 'b' | 'o', of: 's') => sql`
  (
    ${steps}.archived_at is null and ${of}.of_version is null
    or ${steps}.of_version = ${of}.of_version
  )
`
