import { erlangB, erlangC, erlangWait } from '../stats/erlang'
import { MOST_LINES } from './pacing'

/** How calls go in a block, as it was seen or as it is usual. */
export interface LineFacts {
  callers: number
  /** The chance that a person answers, from 0 to 1. */
  answerRate: number
  /** How long a call takes that nobody answers, in seconds. */
  callSeconds: number
  /** How long a caller has one who answers, with logging the outcome, in seconds. */
  handleSeconds: number
}

/** What so many lines would do if they were dialed one after the other without looking who is free. */
export interface LineRow {
  perCaller: number
  lines: number
  /** Answered calls an hour. */
  answersPerHour: number
  /** The share of those who answer that would find no caller (Erlang B). */
  noCaller: number
  /** The share that would have to wait if they were held, and how long on the average in seconds (Erlang C). */
  wait: number
  waitSeconds: number | null
}

/**
 * Why lines are dialed for callers who wait, and not as many as there are: for one, two and three lines for each
 * caller, how many of those who answer would find nobody, by Erlang's formulas for arrivals at random.
 */
export function lineTable({ callers, answerRate, callSeconds, handleSeconds }: LineFacts): LineRow[] {
  return Array.from({ length: MOST_LINES }, (_, index) => {
    const lines = callers * (index + 1)
    const answersPerSecond = (lines * answerRate) / callSeconds
    const load = answersPerSecond * handleSeconds
    const waitSeconds = erlangWait(callers, load, handleSeconds)
    return {
      perCaller: index + 1,
      lines,
      answersPerHour: answersPerSecond * 3_600,
      noCaller: erlangB(callers, load),
      wait: erlangC(callers, load),
      waitSeconds: Number.isFinite(waitSeconds) ? waitSeconds : null,
    }
  })
}
