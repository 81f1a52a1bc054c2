import { BLOCK_TARGETS } from '#core/enumerations'
import type { BlockSummary } from '#shared/api/blocks/blocks'

/** Time worked: "48 s", "23 min", "1 h 12 min". */
export function timeWorked(seconds: number): string {
  if (seconds < 60) return `${seconds} s`
  const minutes = Math.round(seconds / 60)
  if (minutes < 60) return `${minutes} min`
  return `${Math.floor(minutes / 60)} h ${minutes % 60} min`
}

/** So many an hour, with one decimal; empty where less than five minutes were worked. */
export function perHour(count: number, seconds: number): string {
  return seconds < 300 ? '' : (count / (seconds / 3_600)).toFixed(1)
}

/** How much of the target is reached: "8 of 20 conversations"; null without one. */
export function targetInWords({
  target,
  targetOf,
  made,
}: Pick<BlockSummary, 'target' | 'targetOf' | 'made'>): string | null {
  return target === null ? null : `${made[targetOf]} of ${target} ${BLOCK_TARGETS[targetOf]}`
}
