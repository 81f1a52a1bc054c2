import { CONNECT_WITHIN_MS, LEAST_RING_MS, answerRateOf, linesToDial } from './pacing'

/** How calls go, in seconds: what a simulation assumes. */
export interface CallTimes {
  /** A conversation, on the average; its length is exponential. */
  talk: number
  /** Logging the outcome after it. */
  wrapUp: number
  /** A person answers between these, evenly. */
  answerFrom: number
  answerTo: number
  /** A call nobody answers, until it is given up or voicemail is found out. */
  unanswered: number
}

export interface SimulatedDay {
  callers: number
  perCaller: number
  /** The true chance that a person answers. */
  answerRate: number
  /** After how many answered calls it ends. */
  until: number
  times: CallTimes
}

/** What a simulation came to. */
export interface SimulatedResult {
  dialed: number
  answered: number
  abandoned: number
  /** The highest share that was ever abandoned so far, once 100 calls were answered. */
  worst: number
  /** Hours that went by. */
  hours: number
  /** Minutes in conversation for each hour of a caller. */
  talkPerHour: number
}

interface Moment {
  at: number
  run: () => void
}

/** Moments by their time: a binary heap. */
class Schedule {
  private readonly heap: Moment[] = []
  add(one: Moment): void {
    const { heap } = this
    let place = heap.push(one) - 1
    while (place > 0) {
      const parent = (place - 1) >> 1
      if (heap[parent]!.at <= one.at) break
      heap[place] = heap[parent]!
      place = parent
    }
    heap[place] = one
  }
  next(): Moment | undefined {
    const { heap } = this
    const first = heap[0]
    const last = heap.pop()
    if (!first || !last || heap.length === 0) return first
    let place = 0
    for (;;) {
      let child = 2 * place + 1
      if (child >= heap.length) break
      if (child + 1 < heap.length && heap[child + 1]!.at < heap[child]!.at) child++
      if (heap[child]!.at >= last.at) break
      heap[place] = heap[child]!
      place = child
    }
    heap[place] = last
    return first
  }
}

/**
 * Callers who share a block, dialed as `linesToDial` has it, call by call. `random` gives numbers from 0 up to 1. Times
 * are in seconds; someone who answers waits two seconds for a caller, as the rule has it, and is abandoned then.
 */
export function simulateLines(day: SimulatedDay, random: () => number): SimulatedResult {
  const { callers, perCaller, answerRate, until, times } = day
  const schedule = new Schedule()
  let now = 0
  let free = callers
  /** Those who have answered and wait, the first to be abandoned first. */
  let waiting: { leavesAt: number }[] = []
  const ringing = new Set<{ startedAt: number; over: boolean }>()
  const done = { dialed: 0, answered: 0, abandoned: 0, talked: 0, worst: 0 }
  const later = (seconds: number, run: () => void) => schedule.add({ at: now + seconds, run })

  function talk(): void {
    free--
    const length = -times.talk * Math.log(1 - random())
    done.talked += length
    later(length + times.wrapUp, () => {
      free++
      if (waiting.length) {
        waiting.shift()
        talk()
      }
      dialMore()
    })
  }
  function answered(): void {
    done.answered++
    if (free > 0) talk()
    else {
      const one = { leavesAt: now + CONNECT_WITHIN_MS / 1_000 }
      waiting.push(one)
      later(CONNECT_WITHIN_MS / 1_000, () => {
        if (!waiting.includes(one)) return
        waiting = waiting.filter((other) => other !== one)
        done.abandoned++
        if (done.answered >= 100) done.worst = Math.max(done.worst, done.abandoned / done.answered)
      })
    }
    giveUp()
    dialMore()
  }
  function giveUp(): void {
    if (free > 0) return
    for (const call of ringing) {
      if (now - call.startedAt < LEAST_RING_MS / 1_000) continue
      call.over = true
      ringing.delete(call)
    }
  }
  function dialMore(): void {
    const count = linesToDial({
      free,
      ringing: ringing.size,
      perCaller,
      answerRate: answerRateOf(done),
      counted: done,
    })
    for (let line = 0; line < count; line++) {
      const call = { startedAt: now, over: false }
      ringing.add(call)
      done.dialed++
      const answers = random() < answerRate
      const rings = answers ? times.answerFrom + random() * (times.answerTo - times.answerFrom) : times.unanswered
      later(rings, () => {
        if (call.over) return
        ringing.delete(call)
        if (answers) answered()
        else dialMore()
      })
    }
  }
  dialMore()
  while (done.answered < until) {
    const next = schedule.next()
    if (!next) break
    now = next.at
    next.run()
  }
  const hours = now / 3_600
  return {
    dialed: done.dialed,
    answered: done.answered,
    abandoned: done.abandoned,
    worst: done.worst,
    hours,
    talkPerHour: done.talked / 60 / hours / callers,
  }
}
