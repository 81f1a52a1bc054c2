import { isCallable } from '#core/calendar/callingHours'
import type { TaskKind, TimeZoneSource } from '#core/enumerations'
import type { Playbook } from '#core/engine/state/playbook'
import type { Id, Instant } from '#core/instant'
import { isWaiting, type QueueGroup } from '#core/queue/groupNames'
import { groupOf } from '#core/queue/groups'
import { whyInWords } from '#core/queue/why'
import { sql } from '../../db/sql'
import { stepCount } from '../../db/stepVersions'
import type { Viewer } from '../access/viewer'
import { isCall, opening } from '../lists/queueHours'

/** One piece of work of the queue as it is read. */
export interface QueueRow {
  taskId: Id | null
  prospectId: Id
  name: string
  company: string | null
  kind: TaskKind
  priority: number
  title: string
  dueAt: Instant
  timeZone: string
  country: string | null
  region: string | null
  timeZoneFrom: TimeZoneSource
  step: number | null
  steps: number | null
  attempts: number
  reached: boolean
  cadenceId: Id | null
  score: number
}

/** Where someone is in the cadence of step `s`, and what was tried with prospect `p`. */
const PROGRESS = sql`
  (${stepCount('before')})::int + 1 as step,
  (${stepCount('all')})::int as steps,
  p.attempts, p.conversations > 0 as reached, s.cadence_id as "cadenceId", p.score
`

/** What the queue reads of a task `t` of prospect `p`, at company `c`, for step `s`. */
export const TASK_COLUMNS = sql`
  t.id as "taskId", t.prospect_id as "prospectId", btrim(p.first_name || ' ' || p.last_name) as name,
    c.name as company, t.kind, t.priority, t.title, ms(t.due_at) as "dueAt", p.time_zone as "timeZone", p.country,
    p.region,
    p.time_zone_from as "timeZoneFrom", s.position as "stepPosition",
    ${PROGRESS}
`

/** As `TASK_COLUMNS`, of a step `s` that falls due later by its scheduled action `a`. */
export const STEP_COLUMNS = sql`
  null as "taskId", p.id as "prospectId", btrim(p.first_name || ' ' || p.last_name) as name,
  (select c.name from companies c where c.id = p.company_id) as company,
  s.kind, 2 as priority, s.name as title, ms(a.at) as "dueAt", p.time_zone as "timeZone", p.country, p.region,
  p.time_zone_from as "timeZoneFrom",
  ${PROGRESS}
`

/** Whether it can be done now: what needs no call always, else in calling hours where they are. */
export const canCall = (row: QueueRow, now: Instant, book: Playbook) =>
  !isCall(row.kind) || isCallable(now, book.callHours, row, book.holidays)

/** A piece of work as the Desk shows it: with its group, why it is there, and from when on it can be done. */
export function asItem(row: QueueRow, now: Instant, book: Playbook, viewer: Viewer) {
  const callable = canCall(row, now, book)
  const group: QueueGroup = groupOf(
    { priority: row.priority, kind: row.kind, dueAt: row.dueAt, callable, reached: row.reached },
    now,
    viewer.timeZone,
  )
  const inCadence = row.steps ? { step: row.step!, steps: row.steps } : null
  return {
    taskId: row.taskId,
    prospectId: row.prospectId,
    name: row.name,
    company: row.company,
    kind: row.kind,
    group,
    dueAt: row.dueAt,
    timeZone: row.timeZone,
    slope: inCadence,
    priority: null as string | null,
    why: whyInWords(
      { ...row, step: inCadence?.step ?? null, steps: inCadence?.steps ?? null, everReached: row.reached },
      now,
    ),
    ...(isWaiting(group) ? opening(row, now, book) : { opensAt: null, waitsFor: null }),
  }
}
