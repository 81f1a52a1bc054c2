import {
  betaOf,
  chanceBelow,
  fitPrior,
  fitStrength,
  learn,
  meanOf,
  quantile,
  type Beta,
  type Tries,
} from './betaBinomial'

/** An hour of the week by the clock of the person called: 1 is Monday (ISO 8601), the hour from 0 to 23. */
export interface WeekHour {
  weekday: number
  hour: number
}

/** How often people were called in an hour of the week, and how often they were spoken to. */
export interface HourCalls extends WeekHour, Tries {}

/** What a team's calls to companies of one kind came to in an hour of the week; null where the kind is not known. */
export interface LearnedCalls extends HourCalls {
  industry: string | null
}

/** The chance to speak to someone in an hour of the week, with what is known of it. */
export interface HourChance extends WeekHour {
  known: Beta
}

/** What a team's calls teach: how to tell the chance for someone from their kind of company and their own calls. */
export interface BestTimeModel {
  /** All calls of the team. */
  team: Tries
  kinds: ReadonlyMap<string, Tries>
  chancesOfTeam: readonly HourChance[]
  chancesOfKind: ReadonlyMap<string, readonly HourChance[]>
}

export const HOURS_OF_WEEK: readonly WeekHour[] = Array.from({ length: 7 * 24 }, (_, at) => ({
  weekday: Math.floor(at / 24) + 1,
  hour: at % 24,
}))
const indexOf = ({ weekday, hour }: WeekHour): number => (weekday - 1) * 24 + hour

/** How much the level of one person, or of one hour of theirs, keeps to what is expected: common practice. */
const STRENGTH_OF_PERSON = 8
/** The same of a kind of company, where there are too few calls to tell. */
const STRENGTH_OF_KIND = 30

const total = (tries: readonly Tries[]): Tries => ({
  count: tries.reduce((sum, { count }) => sum + count, 0),
  all: tries.reduce((sum, { all }) => sum + all, 0),
})
const odds = (share: number) => share / (1 - share)

/**
 * Moves the chances of all hours by as much as `tries` went better or worse than was expected at their hours, itself
 * drawn towards what was expected by `strength` tries. Gives means by hour of the week.
 */
function atLevelOf(tries: readonly HourCalls[], before: readonly HourChance[], strength: number): number[] {
  const means = before.map(({ known }) => meanOf(known))
  const { count, all } = total(tries)
  if (!all) return means
  const expected = tries.reduce((sum, one) => sum + one.all * means[indexOf(one)]!, 0) / all
  const level = odds(meanOf(learn(betaOf(expected, strength), { count, all }))) / odds(expected)
  return means.map((mean) => {
    const moved = odds(mean) * level
    return moved / (1 + moved)
  })
}

/**
 * Learns from a team's calls, hour by hour, as an empirical Bayes estimate of nested beta-binomial shares (Casella, The
 * American Statistician 39 (1985) 83-87): each hour of the week is drawn towards the mean of all calls, and each hour
 * of a kind of company towards the same hour of the team, at the level of the kind. Null before the first call.
 */
export function learnBestTimes(calls: readonly LearnedCalls[]): BestTimeModel | null {
  const byHour = HOURS_OF_WEEK.map(() => ({ count: 0, all: 0 }))
  const byKind = new Map<string, LearnedCalls[]>()
  for (const one of calls) {
    const hour = byHour[indexOf(one)]!
    hour.count += one.count
    hour.all += one.all
    if (one.industry === null) continue
    const kind = byKind.get(one.industry)
    if (kind) kind.push(one)
    else byKind.set(one.industry, [one])
  }
  const prior = fitPrior(byHour)
  if (!prior) return null
  const chancesOfTeam = HOURS_OF_WEEK.map((hour, at) => ({ ...hour, known: learn(prior, byHour[at]!) }))
  const kinds = [...byKind].map(([name, tries]) => {
    const means = atLevelOf(tries, chancesOfTeam, STRENGTH_OF_KIND)
    return { name, tries, means }
  })
  const strength = fitStrength(
    kinds.flatMap(({ tries, means }) => tries.map((one) => ({ ...one, expected: means[indexOf(one)]! }))),
    STRENGTH_OF_KIND,
  )
  return {
    team: total(byHour),
    kinds: new Map(kinds.map(({ name, tries }) => [name, total(tries)])),
    chancesOfTeam,
    chancesOfKind: new Map(kinds.map(({ name, tries, means }) => [name, learnHours(tries, means, strength)])),
  }
}

/** The chances by hour of the week: the means that are expected, as from `strength` tries, and the hour's own tries. */
function learnHours(tries: readonly HourCalls[], means: readonly number[], strength: number): HourChance[] {
  const chances = HOURS_OF_WEEK.map((hour, at) => ({ ...hour, known: betaOf(means[at]!, strength) }))
  for (const one of tries) {
    const hour = chances[indexOf(one)]!
    hour.known = learn(hour.known, one)
  }
  return chances
}

/**
 * The chance to speak to someone in each hour of the week: that of their kind of company, or of the team where nobody
 * of that kind was called, at the level of their own calls; an hour of the day at which they were called before counts
 * on every weekday.
 */
export function chancesFor(model: BestTimeModel, industry: string | null, own: readonly HourCalls[]): HourChance[] {
  const before = (industry !== null && model.chancesOfKind.get(industry)) || model.chancesOfTeam
  if (!own.length) return [...before]
  const means = atLevelOf(own, before, STRENGTH_OF_PERSON)
  return learnHours(
    own.flatMap((one) => [1, 2, 3, 4, 5, 6, 7].map((weekday) => ({ ...one, weekday }))),
    means,
    STRENGTH_OF_PERSON,
  )
}

/** The chance in one hour of the week, as `chancesFor` has it. */
export function chanceIn(
  model: BestTimeModel,
  industry: string | null,
  own: readonly HourCalls[],
  hour: WeekHour,
): number {
  const chances = own.length
    ? chancesFor(model, industry, own)
    : (industry !== null && model.chancesOfKind.get(industry)) || model.chancesOfTeam
  return meanOf(chances[indexOf(hour)]!.known)
}

/** The chance with the interval in which it lies with 95 %: all from 0 to 1. */
export function chanceShown({ known }: HourChance) {
  return { chance: meanOf(known), low: quantile(0.025, known), high: quantile(0.975, known) }
}

/**
 * By how much the best hours must be better than the mean of the hours, and how much doubt there may be that any is,
 * before they are called so.
 */
const STANDS_OUT = 1.15
const DOUBT = 0.05

const meanChance = (chances: readonly HourChance[]) =>
  chances.reduce((sum, { known }) => sum + meanOf(known), 0) / chances.length

/**
 * The hours that are best among those in which someone may be called, the best first; none where no hour surely stands
 * out from the others: by what is known of someone's own chances, or of those `like` them, by the same hours.
 */
export function bestHours(
  chances: readonly HourChance[],
  most: number,
  like: readonly HourChance[] = chances,
): HourChance[] {
  const mean = meanChance(chances)
  const isSure = (among: readonly HourChance[], at: number) =>
    chanceBelow(meanChance(among), among[at]!.known) < DOUBT / among.length
  return chances
    .filter(({ known }, at) => meanOf(known) >= mean * STANDS_OUT && (isSure(chances, at) || isSure(like, at)))
    .sort((a, b) => meanOf(b.known) - meanOf(a.known))
    .slice(0, most)
}
