import { z } from 'zod'
import { DateTime } from 'luxon'
import { conditionsOf, filterSchema, type Filter } from '../filter/filter'
import { DAY, type Id, type Instant } from '../instant'
import { localDay } from '../calendar/local'

/** Who else at the company may be in a cadence at the same time. */
export const COLLEAGUE_RULES = {
  any: 'colleagues may be in it too',
  not_in_this: 'not while a colleague is in it',
  not_in_any: 'not while a colleague is in any cadence',
} as const
export type ColleagueRule = keyof typeof COLLEAGUE_RULES

/** Who may enter a cadence, and when; all of it must hold. */
export interface EntryRules {
  /** Whether someone who was in it may enter again: 'always', never, or so many days after they left. */
  again: 'always' | 'never' | number
  colleagues: ColleagueRule
  /** Only who fits it when they enter; null for everyone. */
  where: Filter | null
  /** The first and the last day, as ISO days where the team is; null for any. */
  from: string | null
  until: string | null
  /** At most so many start a day, the rest wait in order; null for no limit. */
  perDay: number | null
}

export const DEFAULT_ENTRY: EntryRules = {
  again: 'always',
  colleagues: 'any',
  where: null,
  from: null,
  until: null,
  perDay: null,
}

const day = z.iso.date('Enter a date').nullable().default(null)
export const entrySchema = z
  .object({
    again: z
      .union([z.enum(['always', 'never']), z.number().int('Whole numbers only').min(1).max(3650)])
      .default('always')
      .describe('Whether someone who was in it may enter again; a number: so many days after they left'),
    colleagues: z.enum(Object.keys(COLLEAGUE_RULES) as [ColleagueRule, ...ColleagueRule[]]).default('any'),
    where: filterSchema
      .refine((where) => conditionsOf(where).length > 0, 'Add a condition')
      .nullable()
      .default(null)
      .describe('Only who fits it when they enter'),
    from: day.describe('The first day, where the team is'),
    until: day.describe('The last day, where the team is'),
    perDay: z
      .number()
      .int('Whole numbers only')
      .min(1, 'At least one a day')
      .max(100_000)
      .nullable()
      .default(null)
      .describe('At most so many start a day; the rest wait in order'),
  })
  .refine(({ from, until }) => !from || !until || from <= until, {
    path: ['until'],
    message: 'The last day comes before the first',
  })

/** What entry rules ask that is not among the rows of one prospect. */
export interface EntryFacts {
  /** When they last left each cadence, by its id. */
  leftAt: Readonly<Record<Id, Instant>>
  /** Cadences that others at the company are in. */
  colleagues: readonly { prospectId: Id; cadenceId: Id }[]
}

/** Whether rules ask for `EntryFacts`. */
export const asksEntryFacts = ({ again, colleagues }: EntryRules): boolean => again !== 'always' || colleagues !== 'any'

/** Why nobody may enter on this day, as a sentence, or null. */
export function whyNotToday({ from, until }: EntryRules, now: Instant, timeZone: string): string | null {
  const today = localDay(now, timeZone)
  if (from && today < from) return `The cadence starts on ${inWords(from)}`
  return until && today > until ? `The cadence took people until ${inWords(until)}` : null
}

/** Why someone who was in the cadence may not enter again now, as a sentence, or null. */
export function whyNotAgain({ again }: EntryRules, leftAt: Instant | undefined, now: Instant): string | null {
  if (again === 'always' || leftAt === undefined) return null
  if (again === 'never') return 'Was in this cadence before'
  const left = Math.ceil((leftAt + again * DAY - now) / DAY)
  return left > 0 ? `Was in this cadence: may enter again in ${left} ${left === 1 ? 'day' : 'days'}` : null
}

const inWords = (isoDay: string) => DateTime.fromISO(isoDay).setLocale('en-US').toFormat('LLLL d, yyyy')
