import { sql } from './sql'

/**
 * SQL: whether steps `b` are of the version of the cadence that step `s` belongs to: the cadence as it is now, or an
 * earlier version that people finish.
 */
export const SAME_VERSION = sql`
  (
    b.archived_at is null and s.of_version is null
    or b.of_version = s.of_version
  )
`

/** SQL: how many steps the version has that step `s` belongs to; with `before`, how many of them come before it. */
export function stepCount(before: 'all' | 'before'): string {
  const counted = (version: string) => sql`
    (
      select count(*)
      from cadence_steps o
      where o.cadence_id = s.cadence_id and ${version}${before === 'before' ? ' and o.position < s.position' : ''}
    )
  `
  // Two statements, each with an index of its own, of which one is carried out.
  return sql`
    case
      when s.of_version is null then ${counted('o.archived_at is null')}
      else ${counted('o.of_version = s.of_version')}
    end
  `
}
