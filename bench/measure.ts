import { performance } from 'node:perf_hooks'

/** One line of the report: what was measured against what, and the most it may be. */
export interface Measured {
  what: string
  baseline: string
  /** Milliseconds (or per second, as `unit` says) of each. */
  ours: number
  theirs: number
  unit: string
  ratio: number
  atMost: number
}

/** How long something takes, in milliseconds. */
export async function time(work: () => Promise<unknown>): Promise<number> {
  const from = performance.now()
  await work()
  return performance.now() - from
}

/** The value below which `share` (0 to 1) of the values lie. */
export function quantile(values: readonly number[], share: number): number {
  const sorted = [...values].sort((a, b) => a - b)
  return sorted[Math.min(sorted.length - 1, Math.ceil(share * sorted.length) - 1)]!
}

/** The middle of several values. */
export const median = (values: readonly number[]): number => quantile(values, 0.5)

/** A report line in words. */
export function line(one: Measured): string {
  const verdict = one.ratio <= one.atMost ? 'within' : 'OVER'
  const show = (value: number) => (value >= 100 ? value.toFixed(0) : value.toFixed(2))
  return `${one.what}: ${one.ratio.toFixed(2)} times ${one.baseline} (${show(one.ours)} against ${show(one.theirs)} ${one.unit}); at most ${one.atMost}: ${verdict}`
}

/**
 * Two speeds measured in turn, round by round, so that a machine that is now slow and now fast is as slow for the one
 * as for the other.
 */
export interface Rounds {
  ours: number[]
  theirs: number[]
}

/** What the rounds say: the middle of each side, and the middle of the ratios within a round. */
export function betweenRounds({ ours, theirs }: Rounds): Pick<Measured, 'ours' | 'theirs' | 'ratio'> {
  return {
    ours: median(ours),
    theirs: median(theirs),
    ratio: median(ours.map((value, round) => value / theirs[round]!)),
  }
}
