import { callableUntil, isCallable } from '../calendar/callingHours'
import type { Holidays, Place } from '../calendar/local'
import type { Hours } from '../calendar/window'
import type { QueueChannel, QueueSort, TaskKind } from '../enumerations'
import { DAY, MINUTE, type Instant } from '../instant'

/** What a rep has chosen of the queue, and in which order: all of it holds together. */
export interface QueueChoice {
  channel?: QueueChannel
  cadenceId?: string
  /** Only who is on this list: looked up before, not by `isChosen`. */
  listId?: string
  timeZone?: string
  /** A stretch of the day: what is due by its end and can be done in it. */
  from?: Instant
  to?: Instant
  sort: QueueSort
}

/** How a piece of work is done; a follow-up may be a call as well as anything else, and counts among to-dos. */
export const CHANNEL_OF: Readonly<Record<TaskKind, QueueChannel>> = {
  first_contact: 'call',
  call: 'call',
  call_back: 'call',
  email: 'email',
  reply: 'email',
  check_mail: 'email',
  text: 'text',
  task: 'task',
  follow_up: 'task',
  social: 'task',
  meeting: 'task',
  meeting_result: 'task',
}

/** What the choice asks of one piece of work. */
export interface ChosenWork extends Place {
  kind: TaskKind
  dueAt: Instant
  cadenceId: string | null
  score: number
  /** How likely they are to be spoken to when they are called now; absent where that is not known. */
  chance?: number
  /** Whether it keeps to calling hours where they are. */
  keepsHours: boolean
}

const SLOT = 30 * MINUTE

/**
 * Whether it can be done in a stretch of the day as the ridge draws it: it is due by the end of one of its half hours,
 * and the person may be called when that begins.
 */
function fitsStretch(work: ChosenWork, from: Instant, to: Instant, hours: Hours, holidays: Holidays): boolean {
  for (let at = from; at < Math.min(to, from + DAY); at += SLOT) {
    if (work.dueAt < at + SLOT && (!work.keepsHours || isCallable(at, hours, work, holidays))) return true
  }
  return false
}

/** Whether a piece of work is among what was chosen. */
export function isChosen(choice: QueueChoice, work: ChosenWork, hours: Hours, holidays: Holidays): boolean {
  if (choice.channel && CHANNEL_OF[work.kind] !== choice.channel) return false
  if (choice.cadenceId && work.cadenceId !== choice.cadenceId) return false
  if (choice.timeZone && work.timeZone !== choice.timeZone) return false
  if (choice.from === undefined || choice.to === undefined) return true
  return fitsStretch(work, choice.from, choice.to, hours, holidays)
}

/**
 * The order a rep chose, as a comparison: the highest score first, what was due first, whose calling hours end first
 * (`now`; those who cannot be called now, or need no call, after them), or who is most likely to answer (what needs no
 * call after them). Equal ones by when they were due.
 */
export function bySort(
  sort: QueueSort,
  now: Instant,
  hours: Hours,
  holidays: Holidays,
): (a: ChosenWork, b: ChosenWork) => number {
  const due = (a: ChosenWork, b: ChosenWork) => a.dueAt - b.dueAt
  if (sort === 'score') return (a, b) => b.score - a.score || due(a, b)
  if (sort === 'likely') {
    const chance = (work: ChosenWork) => (work.keepsHours ? (work.chance ?? 0) : -1)
    return (a, b) => chance(b) - chance(a) || due(a, b)
  }
  if (sort !== 'closing') return due
  const ends = (work: ChosenWork) => (work.keepsHours ? callableUntil(now, hours, work, holidays) : null) ?? Infinity
  return (a, b) => {
    const [one, other] = [ends(a), ends(b)]
    return one === other ? due(a, b) : one - other
  }
}
