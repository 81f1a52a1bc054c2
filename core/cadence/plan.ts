import type { Id, Instant } from '../instant'
import { nextCallable } from '../calendar/callingHours'
import { holidayOn, local, type Holidays, type Place } from '../calendar/local'
import { placeOfWindow, type SenderPlace } from '../calendar/sendingWindow'
import { nextOpen, type Hours } from '../calendar/window'
import { firstStep, stepsFrom } from './route'
import type { Cadence, Step, Way } from './steps'
import { afterWait } from './wait'

/** When a step would happen, and what pushed it back from the plain end of its wait. */
export interface PlannedStep {
  stepId: Id
  at: Instant
  /** "after Thanksgiving Day", "after the weekend", "when the window opens"; null when nothing pushed it. */
  moved: string | null
}

/**
 * When a step that falls due at `due` really happens for someone at a place: email inside the cadence's sending
 * window, calls and texts inside calling hours, the rest at once.
 */
export function stepTime(
  kind: Step['kind'],
  due: Instant,
  { window }: Pick<Cadence, 'window'>,
  { teamHours, place, sender, holidays }: PlanPlace,
): Instant {
  if (kind === 'email') return nextOpen(due, window.hours, placeOfWindow(window, place, sender), holidays)
  if (kind === 'call' || kind === 'text') return nextCallable(due, teamHours, place, holidays)
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
 * What the dates of steps depend on beside the cadence: the team's hours, where someone is, where their email is sent
 * from, and the holidays.
 */
export interface PlanPlace {
  teamHours: Hours
  place: Place
  sender: SenderPlace
  holidays: Holidays
}

/**
 * The dates of a climb from `fromStep` on if every step is done as soon as it may be: what "if started today" shows,
 * and the dashed part of the slope. `start` is when the wait before `fromStep` begins; `choose` says which way is taken
 * at a branch, without it the one for everyone else.
 */
export function planFrom(
  cadence: Pick<Cadence, 'steps' | 'window'>,
  fromStep: Id | null,
  start: Instant,
  where: PlanPlace,
  choose?: (branch: Step) => Way | null,
): PlannedStep[] {
  const first = fromStep === null ? firstStep(cadence) : cadence.steps.find((step) => step.id === fromStep)
  let time = start
  return (first ? stepsFrom(cadence, first, choose) : []).map((step) => {
    const planned = planOne(cadence, step, time, where)
    time = planned.at
    return planned
  })
}

function planOne(cadence: Pick<Cadence, 'window'>, step: Step, from: Instant, where: PlanPlace): PlannedStep {
  const { place, holidays } = where
  const due = afterWait(from, step.wait, place, holidays)
  const at = stepTime(step.kind, due, cadence, where)
  return { stepId: step.id, at, moved: whatMoved(due, at, place, holidays) }
}

/** The dates of all steps, those of ways that are not taken among them, as if they were: what the editor draws. */
export function planAll(
  cadence: Pick<Cadence, 'steps' | 'window'>,
  start: Instant,
  where: PlanPlace,
  choose?: (branch: Step) => Way | null,
): PlannedStep[] {
  const planned = new Map(planFrom(cadence, null, start, where, choose).map((one) => [one.stepId, one]))
  // Branches come before the steps of their ways.
  for (const branch of cadence.steps) {
    const at = planned.get(branch.id)?.at
    if (at === undefined) continue
    for (const way of branch.ways) {
      let time = at
      for (const step of cadence.steps.filter((one) => one.wayId === way.id)) {
        if (!planned.has(step.id)) planned.set(step.id, planOne(cadence, step, time, where))
        time = planned.get(step.id)!.at
      }
    }
  }
  return cadence.steps.flatMap((step) => planned.get(step.id) ?? [])
}
