/** A share with what it may be when more is known: all from 0 to 1. */
export interface Share {
  share: number
  low: number
  high: number
}

/** The normal deviate of 95 %. */
const Z = 1.959964

/**
 * How many of how many, as a share with its 95 % interval by Wilson's score, without continuity correction (Newcombe,
 * Statistics in Medicine 17 (1998) 857-872, method 3). Null where there are none to count among.
 */
export function shareOf(count: number, all: number): Share | null {
  if (all <= 0) return null
  const share = Math.min(1, count / all)
  const middle = share + Z ** 2 / (2 * all)
  const spread = Z * Math.sqrt((share * (1 - share)) / all + Z ** 2 / (4 * all ** 2))
  const scale = 1 + Z ** 2 / all
  return { share, low: Math.max(0, (middle - spread) / scale), high: Math.min(1, (middle + spread) / scale) }
}

/** A share in words: "30% (18 to 45%)". */
export function shareInWords({ share, low, high }: Share): string {
  const percent = (value: number) => Math.round(value * 100)
  return `${percent(share)}% (${percent(low)} to ${percent(high)}%)`
}
