import { MOST_ABANDONED } from '../core/dialing/pacing'
import { simulateLines } from '../core/dialing/simulate'
import { shareOf } from '../core/stats/share'
import { seeded } from '../demo/seeded'

const TIMES = { talk: 60, wrapUp: 15, answerFrom: 4, answerTo: 18, unanswered: 25 }
const ANSWERED = 10_000
const percent = (share: number) => `${(100 * share).toFixed(2)} %`

/**
 * Several lines, simulated until 10,000 calls were answered by a person: the abandoned share with the upper end of its
 * 95 % interval, and the talk time of an hour against one line for each caller in the same simulation.
 */
export function measureLines(): Promise<string[]> {
  const lines: string[] = []
  for (const callers of [1, 3, 10]) {
    for (const answerRate of [0.05, 0.1, 0.15, 0.2, 0.3]) {
      const run = (perCaller: number) =>
        simulateLines({ callers, perCaller, answerRate, until: ANSWERED, times: TIMES }, seeded(callers * 100))
      const one = run(1)
      const { abandoned, answered, talkPerHour } = run(3)
      const { share, high } = shareOf(abandoned, answered)!
      const gain = talkPerHour / one.talkPerHour
      const isWithin = high < MOST_ABANDONED && (callers < 10 || gain >= 1.8)
      lines.push(
        `several lines, ${callers} ${callers === 1 ? 'caller' : 'callers'}, ${answerRate * 100} % answer: abandoned ` +
          `${percent(share)}, at most ${percent(high)} (limit 3 %); talk ${gain.toFixed(2)} times one line's ` +
          `(asked 1.8 where callers share a block)${isWithin ? '' : ' OVER'}`,
      )
    }
  }
  return Promise.resolve(lines)
}
