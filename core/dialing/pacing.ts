/*
 * How many lines are dialed at once, so that no more answered calls are abandoned than the rule allows: 16 CFR
 * 310.4(b)(4), the safe harbor of the Telemarketing Sales Rule. A call is abandoned when no caller is on the line
 * within two seconds of the greeting; at most 3 % of the answered calls of a campaign may be, counted over 30 days; a
 * phone rings for at least 15 seconds before an unanswered call is given up.
 */

/** The most that may be abandoned, as a share of the calls that were answered by a person. */
export const MOST_ABANDONED = 0.03
/** What is aimed at, so that the most is never reached: common practice, no published source. */
export const AIMED_ABANDONED = 0.022
/** How long a phone rings before an unanswered call may be given up, in milliseconds. */
export const LEAST_RING_MS = 15_000
/** Within what time of the greeting a caller is on the line, in milliseconds. */
export const CONNECT_WITHIN_MS = 2_000
/** Over how many days a campaign's calls are counted. */
export const COUNTED_DAYS = 30
/** How many lines for each caller may be chosen, at most. */
export const MOST_LINES = 3
/** What may happen more seldom than this is not reckoned with. */
const SELDOM = 0.001

/** The calls of a campaign that were answered by a person, and those of them that were abandoned. */
export interface AnsweredCalls {
  answered: number
  abandoned: number
}

/** What is known when lines are to be dialed. */
export interface LineState {
  /** Callers who wait for a call. */
  free: number
  /** Calls that are under way and may still be answered. */
  ringing: number
  /** How many lines for each caller are wanted. */
  perCaller: number
  /** The chance that a person answers a call, from 0 to 1. */
  answerRate: number
  counted: AnsweredCalls
}

/** The chances that 0, 1, … of so many calls are answered: the binomial distribution. */
function answers(calls: number, rate: number): number[] {
  let chances = [1]
  for (let call = 0; call < calls; call++) {
    const next = new Array<number>(chances.length + 1).fill(0)
    chances.forEach((chance, count) => {
      next[count]! += chance * (1 - rate)
      next[count + 1]! += chance * rate
    })
    chances = next
  }
  return chances
}

/**
 * Whether so many calls may be under way for so many free callers: what is likely to be abandoned keeps the campaign
 * below what is aimed at, and nothing that could well happen takes it past the most.
 */
function isSafe(calls: number, { free, answerRate, counted }: LineState): boolean {
  // A call for every caller who waits finds its caller.
  if (calls <= free) return true
  const chances = answers(calls, answerRate)
  let answered = 0
  let abandoned = 0
  let atLeast = 1
  for (const [count, chance] of chances.entries()) {
    const lost = Math.max(0, count - free)
    const share = lost ? (counted.abandoned + lost) / (counted.answered + count) : 0
    // `atLeast` is the chance of so many answers or more.
    if (share > MOST_ABANDONED && atLeast > SELDOM) return false
    answered += count * chance
    abandoned += lost * chance
    atLeast -= chance
  }
  // One call more than callers is the least that can be risked; more are not to use up at once what may be lost.
  if (calls > free + 1 && abandoned > 2 * AIMED_ABANDONED * answered) return false
  return counted.abandoned + abandoned <= AIMED_ABANDONED * (counted.answered + answered)
}

/**
 * How many more calls may be started now: as many as are wanted for the callers who wait, as far as that is safe. One
 * line for each waiting caller always is.
 */
export function linesToDial(state: LineState): number {
  const wanted = state.free * Math.min(MOST_LINES, Math.max(1, state.perCaller))
  let calls = wanted
  while (calls > state.ringing && !isSafe(calls, state)) calls--
  return Math.max(0, calls - state.ringing)
}

/** Calls for which nobody waits any more and which may be given up by now; `now` in milliseconds. */
export function callsToGiveUp<Call extends { startedAt: number }>(
  ringing: readonly Call[],
  free: number,
  now: number,
): Call[] {
  return free > 0 ? [] : ringing.filter(({ startedAt }) => now - startedAt >= LEAST_RING_MS)
}

/** How many calls the answer rate is drawn towards what is usual by, while few were made. */
const USUAL_STRENGTH = 20
/** The share of calls that is taken to be answered before anything is known: common practice, no published source. */
const USUAL_RATE = 0.15

/** The chance that a person answers, from the campaign's own calls, drawn towards what is usual while they are few. */
export function answerRateOf({ dialed, answered }: { dialed: number; answered: number }): number {
  return (answered + USUAL_RATE * USUAL_STRENGTH) / (dialed + USUAL_STRENGTH)
}
