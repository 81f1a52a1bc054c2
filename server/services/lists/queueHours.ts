import type { TaskKind } from '#core/enumerations'
import { nextCallable } from '#core/calendar/callingHours'
import { holidayOn, localDay, type Place } from '#core/calendar/local'
import type { Playbook } from '#core/engine/state/playbook'
import type { Instant } from '#core/instant'

const CALLS: ReadonlySet<TaskKind> = new Set<TaskKind>(['call', 'call_back', 'first_contact', 'text'])

/** Work that is done by a call or a text, and so keeps to calling hours where they are, as a list in SQL. */
export const CALL_KINDS = `('${[...CALLS].join(`', '`)}')`

/** Whether work of the kind keeps to calling hours where they are. */
export const isCall = (kind: TaskKind): boolean => CALLS.has(kind)

/** From when on work that waits can be done, and what keeps it back: a holiday there, or the hour. */
export function opening(
  row: Place & { kind: TaskKind; dueAt: Instant },
  now: Instant,
  book: Playbook,
): { opensAt: Instant | null; waitsFor: string | null } {
  if (!isCall(row.kind)) return { opensAt: row.dueAt, waitsFor: null }
  const at = Math.max(now, row.dueAt)
  const holiday = holidayOn(localDay(at, row.timeZone), row, book.holidays)
  try {
    return { opensAt: nextCallable(at, book.callHours, row, book.holidays), waitsFor: holiday }
  } catch {
    return { opensAt: null, waitsFor: 'the team’s hours never fall into calling hours where they are' }
  }
}
