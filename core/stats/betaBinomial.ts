/** What is known of a share: a beta distribution, as if `alpha` of `alpha + beta` tries had succeeded. */
export interface Beta {
  alpha: number
  beta: number
}

/** How often something succeeded among so many tries. */
export interface Tries {
  count: number
  all: number
}

/** A group among others: its tries, and the share that is expected of it before they are looked at. */
export interface ExpectedTries extends Tries {
  expected: number
}

export const betaOf = (mean: number, strength: number): Beta => ({
  alpha: mean * strength,
  beta: (1 - mean) * strength,
})
export const meanOf = ({ alpha, beta }: Beta): number => alpha / (alpha + beta)

/** The share once tries are known: what was known before, and they. */
export const learn = ({ alpha, beta }: Beta, { count, all }: Tries): Beta => ({
  alpha: alpha + count,
  beta: beta + all - count,
})

/** Groups that differ no more than chance alone would have it are taken for alike, as by so many tries before. */
const MOST_STRENGTH = 1_000
/** The least that is known before any tries: as much as from two. */
const LEAST_STRENGTH = 2
/** Where one group alone cannot show how groups differ: common practice, no published source. */
const UNKNOWN_STRENGTH = 30

/** The strength of a prior from the correlation within groups; groups that do not differ are all alike. */
function strengthFrom(correlation: number): number {
  if (!Number.isFinite(correlation)) return UNKNOWN_STRENGTH
  if (correlation <= 0) return MOST_STRENGTH
  return Math.min(MOST_STRENGTH, Math.max(LEAST_STRENGTH, (1 - correlation) / correlation))
}

/**
 * The distribution that the shares of several groups come from, by the method of moments for the beta-binomial, groups
 * weighted by their tries (Kleinman, Journal of the American Statistical Association 68 (1973) 46-54): the prior of an
 * empirical Bayes estimate (Casella, The American Statistician 39 (1985) 83-87). Null where nothing was tried.
 */
export function fitPrior(groups: readonly Tries[]): Beta | null {
  const tried = groups.filter(({ all }) => all > 0)
  const all = tried.reduce((total, group) => total + group.all, 0)
  if (!all) return null
  // Neither never nor always: half a success and half a failure more than were seen.
  const mean = (tried.reduce((total, group) => total + group.count, 0) + 0.5) / (all + 1)
  const spread = tried.reduce((total, group) => total + group.all * (group.count / group.all - mean) ** 2, 0)
  const squares = tried.reduce((total, group) => total + group.all ** 2, 0)
  const free = tried.length - 1
  return betaOf(mean, strengthFrom((spread / (mean * (1 - mean)) - free) / (all - squares / all - free)))
}

/**
 * How strongly groups keep to what is expected of each, as a number of tries: moments as in `fitPrior`, with a mean of
 * its own for each group that is known beforehand. `unknown` where there is too little to tell.
 */
export function fitStrength(groups: readonly ExpectedTries[], unknown: number): number {
  const tried = groups.filter(({ all }) => all > 0)
  const free = tried.reduce((total, { all }) => total + all - 1, 0)
  if (free < 10) return unknown
  const spread = tried.reduce(
    (total, { count, all, expected }) => total + (all * (count / all - expected) ** 2) / (expected * (1 - expected)),
    0,
  )
  return strengthFrom((spread - tried.length) / free)
}

/** The logarithm of the gamma function, x > 0: Stirling's series (NIST DLMF 5.11.1) from 10 on, else by recurrence. */
function logGamma(x: number): number {
  let shift = 0
  for (; x < 10; x++) shift += Math.log(x)
  const square = 1 / (x * x)
  const series = (1 / 12 - square * (1 / 360 - square * (1 / 1260 - square / 1680))) / x
  return (x - 0.5) * Math.log(x) - x + 0.5 * Math.log(2 * Math.PI) + series - shift
}

/** The part of the continued fraction NIST DLMF 8.17.22, by the modified method of Lentz. */
function fraction(x: number, a: number, b: number): number {
  const TINY = 1e-300
  const notZero = (value: number) => (Math.abs(value) < TINY ? TINY : value)
  let c = 1
  let d = 1 / notZero(1 - ((a + b) * x) / (a + 1))
  let result = d
  for (let m = 1; m <= 500; m++) {
    const even = (m * (b - m) * x) / ((a + 2 * m - 1) * (a + 2 * m))
    d = 1 / notZero(1 + even * d)
    c = notZero(1 + even / c)
    result *= d * c
    const odd = (-(a + m) * (a + b + m) * x) / ((a + 2 * m) * (a + 2 * m + 1))
    d = 1 / notZero(1 + odd * d)
    c = notZero(1 + odd / c)
    const change = d * c
    result *= change
    if (Math.abs(change - 1) < 1e-14) break
  }
  return result
}

/** The chance that a share is at most `x`: the regularized incomplete beta function (NIST DLMF 8.17). */
export function chanceBelow(x: number, { alpha, beta }: Beta): number {
  if (x <= 0) return 0
  if (x >= 1) return 1
  const front = Math.exp(
    logGamma(alpha + beta) - logGamma(alpha) - logGamma(beta) + alpha * Math.log(x) + beta * Math.log1p(-x),
  )
  return x < (alpha + 1) / (alpha + beta + 2)
    ? (front * fraction(x, alpha, beta)) / alpha
    : 1 - (front * fraction(1 - x, beta, alpha)) / beta
}

/** The share below which it lies with a chance of `chance`, from 0 to 1, to within a millionth. */
export function quantile(chance: number, known: Beta): number {
  let [low, high] = [0, 1]
  for (let step = 0; step < 40; step++) {
    const middle = (low + high) / 2
    if (chanceBelow(middle, known) < chance) low = middle
    else high = middle
  }
  return (low + high) / 2
}
