import type { Id, Instant } from '../instant'
import { nextCallable } from '../calendar/callingHours'
import { holidayOn, local, type Holidays, type Place } from '../calendar/local'
import { nextOpen, type Hours } from '../calendar/window'
import type { Cadence, Step } from './steps'
import { afterWait } from './wait'

/** When a step would happen, and what pushed it back from the plain end of its wait. */
export interface PlannedStep {
  stepId: Id
  at: Instant
  /** "after Thanksgiving Day", "after the weekend", "when the window opens"; null when nothing pushed it. */
  moved: string | null
}

/**
 * When a step that falls due at `due` really happens for someone at `place`: mail inside the cadence's sending
 * window, calls inside calling hours, tasks at once.
 */
export function stepTime(
  kind: Step['kind'],
  due: Instant,
  cadence: Pick<Cadence, 'window'>,
  teamHours: Hours,
  place: Place,
  holidays: Holidays,
): Instant {
  if (kind === 'email') return nextOpen(due, cadence.window, place, holidays)
  if (kind === 'call') return nextCallable(due, teamHours, place, holidays)
  return due
}

function whatMoved(due: Instant, at: Instant, place: Place, holidays: Holidays): string | null {
  if (at === due) return null
  for (let day = local(due, place.timeZone).startOf('day'); day.toMillis() < at; day = day.plus({ days: 1 })) {
    const holiday = holidayOn(day.toISODate()!, place, holidays)
    if (holiday) return `after ${holiday}`
  }
  const [from, to] = [local(due, place.timeZone), local(at, place.timeZone)]
  if (from.hasSame(to, 'day')) return 'when hours open'
  return from.hasSame(to, 'week') ? 'the next morning' : 'after the weekend'
}

/**
 * The dates of a climb from `fromStep` on if every step is done as soon as it may be: what "if started today" shows,
 * and the dashed part of the slope. `start` is when the wait before `fromStep` begins.
 */
export function planFrom(
  cadence: Cadence,
  fromStep: Id | null,
  start: Instant,
  teamHours: Hours,
  place: Place,
  holidays: Holidays,
): PlannedStep[] {
  const first = fromStep === null ? 0 : cadence.steps.findIndex((step) => step.id === fromStep)
  const planned: PlannedStep[] = []
  let time = start
  for (const step of first < 0 ? [] : cadence.steps.slice(first)) {
    const due = afterWait(time, step.wait, place, holidays)
    time = stepTime(step.kind, due, cadence, teamHours, place, holidays)
    planned.push({ stepId: step.id, at: time, moved: whatMoved(due, time, place, holidays) })
  }
  return planned
}
