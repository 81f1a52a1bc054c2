import { DateTime } from 'luxon'
import type { Id, Instant } from '../instant'
import { localDay, type Place } from '../calendar/local'
import { senderPlace, type KnownSenders } from '../calendar/sendingWindow'
import { planFrom, stepTime, type PlanPlace } from './plan'
import { stepsFrom } from './route'
import type { Cadence, Step } from './steps'

/** What steps bring a rep on a day. */
export const LOAD_KINDS = { calls: 'calls', texts: 'texts', tasks: 'to-dos', emails: 'emails' } as const
export type LoadKind = keyof typeof LOAD_KINDS
/** Work of each kind by day, in the order of the days that are asked about. */
export type Load = Record<LoadKind, number[]>

/** People of one owner in one place who come to a step of a cadence at the same time, counted together. */
export interface Travelers {
  ownerId: Id | null
  place: Place
  cadence: Pick<Cadence, 'steps' | 'window'>
  stepId: Id
  /** When the step falls due; what is due already is work of the first day. */
  at: Instant
  count: number
}

const KIND_OF: Readonly<Record<Step['kind'], LoadKind | null>> = {
  call: 'calls',
  text: 'texts',
  social: 'tasks',
  task: 'tasks',
  meeting: 'tasks',
  email: 'emails',
  branch: null,
}

/** A load with nothing in it. */
export const emptyLoad = (days: number): Load => ({
  calls: Array.from({ length: days }, () => 0),
  texts: Array.from({ length: days }, () => 0),
  tasks: Array.from({ length: days }, () => 0),
  emails: Array.from({ length: days }, () => 0),
})

/**
 * What people on their way bring each owner on each of `days` (ISO days where the team is, in order): every step done
 * as soon as it may be, nobody leaving before the end, at a branch the way for everyone else. So it is the most there
 * can be. What falls between two of the days counts for the later one.
 */
export function loadOf(
  travelers: readonly Travelers[],
  days: readonly string[],
  where: Omit<PlanPlace, 'place' | 'sender'> & { senders: KnownSenders },
  timeZone: string,
): Map<Id | null, Load> {
  const loads = new Map<Id | null, Load>()
  const dated = new Map<string, { kind: LoadKind; day: number }[]>()
  const until = DateTime.fromISO(days.at(-1) ?? '', { zone: timeZone })
    .endOf('day')
    .toMillis()
  for (const { ownerId, place, cadence, stepId, at, count } of travelers) {
    const load = loads.get(ownerId) ?? emptyLoad(days.length)
    loads.set(ownerId, load)
    // Who starts after the last day brings nothing to any of them.
    if (at > until) continue
    const sender = senderPlace(where.senders, ownerId)
    const key = `${stepId}/${at}/${place.timeZone}/${place.country}/${place.region}/${sender.timeZone}`
    const found = dated.get(key) ?? stepsOnDays(cadence, stepId, at, { ...where, place, sender }, days, timeZone)
    dated.set(key, found)
    for (const { kind, day } of found) load[kind][day]! += count
  }
  return loads
}

function stepsOnDays(
  cadence: Travelers['cadence'],
  stepId: Id,
  at: Instant,
  where: PlanPlace,
  days: readonly string[],
  timeZone: string,
): { kind: LoadKind; day: number }[] {
  const first = cadence.steps.find((step) => step.id === stepId)
  if (!first) return []
  const [, ...rest] = stepsFrom(cadence, first)
  const begins = stepTime(first.kind, at, cadence, where)
  const later = rest[0] ? planFrom(cadence, rest[0].id, begins, where) : []
  const moments = [{ step: first, at: begins }, ...rest.map((step, index) => ({ step, at: later[index]!.at }))]
  return moments.flatMap(({ step, at: moment }) => {
    const kind = KIND_OF[step.kind]
    const on = localDay(moment, timeZone)
    const day = days.findIndex((one) => one >= on)
    return kind && day >= 0 ? [{ kind, day }] : []
  })
}

/** What a rep has on the days ahead: what the cadences that run bring, and what a launch would add. */
export interface RepLoad {
  id: Id
  name: string
  /** What fits into a day; 0 where nothing is said of it. */
  capacity: { calls: number; emails: number }
  running: Load
  added: Load
}

const sum = (numbers: readonly number[]) => numbers.reduce((total, one) => total + one, 0)

/** The calls of all these reps by day: those of running cadences, and with the launch. */
function callsByDay(reps: readonly Pick<RepLoad, 'running' | 'added'>[]): { running: number[]; all: number[] } {
  const days = reps[0]?.running.calls ?? []
  const running = days.map((_, day) => sum(reps.map((rep) => rep.running.calls[day]!)))
  return { running, all: running.map((count, day) => count + sum(reps.map((rep) => rep.added.calls[day]!))) }
}

/** Days on which a launch makes it more calls than fit. Days that are too full without it are not its doing. */
function daysOver(reps: readonly RepLoad[]): number[] {
  const capacity = sum(reps.map((rep) => rep.capacity.calls))
  const { running, all } = callsByDay(reps)
  return capacity > 0 ? all.flatMap((count, day) => (count > capacity && count > running[day]! ? [day] : [])) : []
}

/**
 * The day on which the calls are most above what fits, as a sentence with how many a day would fit, which `fitting`
 * works out (null: not even one); null where all fit.
 */
export function adviceOn(
  reps: readonly RepLoad[],
  days: readonly string[],
  fitting: () => number | null,
): { message: string; perDay: number | null } | null {
  const { all } = callsByDay(reps)
  const [worst] = daysOver(reps).sort((a, b) => all[b]! - all[a]! || a - b)
  if (worst === undefined) return null
  const day = DateTime.fromISO(days[worst]!).setLocale('en-US').toFormat('cccc, LLLL d')
  const who = reps.length === 1 ? reps[0]!.name : `${reps.length} reps`
  const perDay = fitting()
  const instead = perDay ? `: start ${perDay} a day` : ', even with one a day: give the calls to more reps'
  const fit = sum(reps.map((rep) => rep.capacity.calls))
  return { message: `${day}: ${all[worst]} calls for ${who}, ${fit} fit${instead}`, perDay }
}

/**
 * The most people who may start a day so that the calls of every day fit, up to `most`; null where even one is too
 * many. `added` gives what the launch adds for each owner with so many a day.
 */
export function fittingPerDay(
  reps: readonly RepLoad[],
  added: (daily: number) => ReadonlyMap<Id | null, Load>,
  most: number,
): number | null {
  const fits = (daily: number) => {
    const loads = added(daily)
    return !daysOver(reps.map((rep) => ({ ...rep, added: loads.get(rep.id) ?? emptyLoad(rep.added.calls.length) })))
      .length
  }
  let [low, high] = [0, most]
  while (low < high) {
    const middle = Math.ceil((low + high) / 2)
    if (fits(middle)) low = middle
    else high = middle - 1
  }
  return low || null
}
