import { showDate } from '../calendar/dateStyle'
import type { DateStyle } from '../enumerations'
import { en } from 'chrono-node'
import { DateTime } from 'luxon'
import { DAY, HOUR, MINUTE, type Instant } from '../instant'
import { dueAtOf, inWords, type TouchInterval } from './touchGoal'
import { callingHours, isCallable, nextWorkingMoment } from '../calendar/callingHours'
import { holidayOn, isBusinessDay, local, localDay, type Holidays, type Place } from '../calendar/local'
import type { Hours } from '../calendar/window'

/** What is planned: a call or a meeting reaches the person, a task is the rep's own. */
export type Planned = 'call' | 'meeting' | 'task'

/** Where and when a next step is chosen. */
export interface WhenContext {
  now: Instant
  kind: Planned
  /** IANA zone in whose clock what is typed is read. */
  timeZone: string
  /** Where the person is; null for work that concerns nobody. */
  place: Place | null
  /** The team's calling hours. */
  hours: Hours
  holidays: Holidays
  /** Whether "12/1" is December 1 (as in the US) or January 12. */
  monthFirst: boolean
  /** How the reader sees dates. */
  dateStyle: DateStyle
  /** When the person is most likely to answer next; null where no time stands out. */
  best: Instant | null
  /** How often the person is to be in touch with, by their lists; null without a goal. */
  goal: TouchInterval | null
}

/** What was read: an instant, or why there is none. */
export type WhenRead = { at: Instant } | { error: string }

/** The time of day where none is given, in minutes. */
const USUAL_TIME = 10 * 60
const WORDS: Readonly<Record<string, number>> = {
  noon: 12 * 60,
  midday: 12 * 60,
  morning: 9 * 60,
  afternoon: 14 * 60,
  evening: 17 * 60,
  eod: 17 * 60,
}

/** A time of day within a text, and the text without it. */
interface TimeRead {
  minutes: number | null
  rest: string
}

/** Hours without "am" or "pm" are those of a working day: 8 to 11 in the morning, 1 to 7 in the afternoon. */
function hourOf(hour: number, half: string | undefined, padded: boolean): number | null {
  if (hour > 23 || (half && (hour < 1 || hour > 12))) return null
  if (half) return (hour % 12) + (half.startsWith('p') ? 12 : 0)
  return hour >= 1 && hour <= 7 && !padded ? hour + 12 : hour
}

function readTime(text: string): TimeRead {
  const word = /(?:\b(?:at|in the|this)\s+)?\b(noon|midday|morning|afternoon|evening|eod)\b/.exec(text)
  if (word) {
    const bare = text.replace(word[0], ' ').trim()
    return { minutes: WORDS[word[1]!]!, rest: word[0].startsWith('this') && !bare ? 'today' : bare }
  }
  const patterns = [
    /(?:\bat\s+)?\b(\d{1,2})(?::?(\d{2}))?\s*([ap])\.?(?:m\.?)?(?![a-z])/,
    /(?:\bat\s+)?\b(\d{1,2}):(\d{2})\b/,
    /\bat\s+(\d{1,2})\b()/,
    /(?<=^|[a-z]\.?\s|\/\d{1,4}\s|-\d\d\s)(\d{1,2})()$/,
  ]
  for (const pattern of patterns) {
    const found = pattern.exec(text)
    // "dec 1", "in 3 weeks": the number is a date's or a distance's.
    if (
      !found ||
      (pattern === patterns[3] &&
        /(?:^|\s)(?:in|jan\w*|feb\w*|mar\w*|apr\w*|may|june?|july?|aug\w*|sept?\w*|oct\w*|nov\w*|dec\w*)\.?\s+\d{1,2}$/.test(
          text,
        ))
    ) {
      continue
    }
    const hour = hourOf(Number(found[1]), found[3], found[1]!.startsWith('0'))
    const minute = Number(found[2] || 0)
    if (hour === null || minute > 59) continue
    return { minutes: hour * 60 + minute, rest: text.replace(found[0], ' ').trim() }
  }
  return { minutes: null, rest: text }
}

/**
 * Eight digits as a date: 12012026 is December 1 where months come first, January 12 elsewhere; 20261201 by its year.
 */
function withDigits(text: string, monthFirst: boolean): string {
  return text.replace(/\b\d{8}\b/, (digits) => {
    const parts = (sizes: readonly number[]) =>
      sizes.map((size, index) => digits.slice(sizes.slice(0, index).reduce((sum, one) => sum + one, 0)).slice(0, size))
    const [isoYear, isoMonth, isoDay] = parts([4, 2, 2])
    if (isoYear!.startsWith('20') && Number(isoMonth) <= 12) return `${isoYear}-${isoMonth}-${isoDay}`
    const [first, second, year] = parts([2, 2, 4])
    return monthFirst ? `${year}-${first}-${second}` : `${year}-${second}-${first}`
  })
}

/**
 * The day a text names, by the calendar of `now`; `vague` where it names a stretch and not a day ("next week",
 * "january").
 */
function readDay(
  text: string,
  now: DateTime,
  monthFirst: boolean,
): { day: DateTime; weekday: boolean; vague: boolean } | null {
  if (/^(next week|the week after)$/.test(text)) {
    return { day: now.plus({ weeks: 1 }).startOf('week'), weekday: false, vague: true }
  }
  if (/^next month$/.test(text)) return { day: now.plus({ months: 1 }).startOf('month'), weekday: false, vague: true }
  const wall = now.setZone('utc', { keepLocalTime: true })
  const parser = monthFirst ? en.casual : en.GB
  const [found] = parser.parse(text, { instant: wall.toJSDate(), timezone: 0 })
  if (!found || found.text.trim().length < text.replace(/^(on|by|the)\s+/, '').trim().length) return null
  const get = (part: 'year' | 'month' | 'day') => found.start.get(part)!
  const read = DateTime.fromObject({ year: get('year'), month: get('month'), day: get('day') }, { zone: now.zone })
  if (!read.isValid) return null
  const vague =
    (!found.start.isCertain('day') && !found.start.isCertain('weekday')) || /^in\s.*(week|month|year)/.test(text)
  const weekday = found.start.isCertain('weekday') && !found.start.isCertain('day')
  // What names no year or week is the next one to come.
  const today = now.startOf('day')
  const past = read < today
  if (!past || (!weekday && found.start.isCertain('year'))) return { day: read, weekday, vague }
  return { day: read.plus(weekday ? { weeks: 1 } : { years: 1 }), weekday, vague }
}

/** "in 20 min", "in 2 hours": a distance from now, to the minute. */
function readDistance(text: string, now: Instant): Instant | null {
  const found = /^(?:in\s+)?(an?|\d{1,3})\s*(m|min|mins|minutes?|h|hrs?|hours?)$/.exec(text)
  if (!found) return null
  const amount = found[1]!.startsWith('a') ? 1 : Number(found[1])
  return now + amount * (found[2]!.startsWith('h') ? HOUR : MINUTE)
}

/**
 * Reads when something is to be, as people type it: "tue 2:30", "12/1 9a", "in 3 weeks", "tomorrow", "in an hour",
 * "next week". Times without a day are the next ones to come, days without a time at 10:00; what names no day ("next
 * month") is put on the first working day of it. `error` says what to change where it cannot be read, has passed, or is
 * more than ten years away.
 */
export function readWhen(typed: string, context: WhenContext): WhenRead {
  const text = withDigits(
    typed.trim().toLowerCase().replaceAll(/[,;]+/g, ' ').replaceAll(/\s+/g, ' '),
    context.monthFirst,
  )
  if (!text) return { error: 'Say when' }
  const distance = readDistance(text, context.now)
  if (distance !== null) return { at: distance }
  const now = local(context.now, context.timeZone)
  const { minutes, rest } = readTime(text)
  const named = rest
    ? readDay(rest, now, context.monthFirst)
    : { day: now.startOf('day'), weekday: false, vague: false }
  if (!named) return { error: 'Can’t read this. Try “tue 2:30”, “12/1 9a” or “in 3 weeks”' }
  const time = minutes ?? USUAL_TIME
  const onDay = (day: DateTime) =>
    day.set({ hour: Math.floor(time / 60), minute: time % 60, second: 0, millisecond: 0 })
  let at = onDay(named.day)
  if (at.toMillis() <= context.now && !rest) at = onDay(named.day.plus({ days: 1 }))
  if (at.toMillis() <= context.now && named.weekday) at = onDay(named.day.plus({ weeks: 1 }))
  if (at.toMillis() <= context.now) return { error: 'Choose a time in the future' }
  if (at.toMillis() > context.now + 3_653 * DAY) return { error: 'That is more than ten years away' }
  return { at: named.vague ? workingDay(at.toMillis(), context) : at.toMillis() }
}

/** The same time on the first working day from then on, where the person is; tasks keep to the rep's own week. */
function workingDay(at: Instant, { place, hours, holidays, timeZone }: WhenContext): Instant {
  if (!place) {
    let day = local(at, timeZone)
    while (day.weekday > 5) day = day.plus({ days: 1 })
    return day.toMillis()
  }
  let day = local(at, timeZone)
  for (
    let tries = 0;
    tries < 30 && !isBusinessDay(localDay(day.toMillis(), place.timeZone), place, holidays);
    tries++
  ) {
    day = day.plus({ days: 1 })
  }
  try {
    return nextWorkingMoment(day.toMillis(), hours, place, holidays)
  } catch {
    return day.toMillis()
  }
}

/** A moment as it is shown everywhere: "Tue, Dec 1, 2:30 PM", by the clock of `timeZone`. */
export function showMoment(at: Instant, timeZone: string, dateStyle: DateStyle): string {
  return showDate(local(at, timeZone), dateStyle, 'moment')
}

/**
 * What does not fit about a moment for someone at their place: a holiday there, a weekend, an hour at which nobody is
 * called.
 */
export function whenWarnings(at: Instant, { place, kind, hours, holidays, dateStyle }: WhenContext): string[] {
  if (!place || kind === 'task') return []
  const day = local(at, place.timeZone)
  const holiday = holidayOn(day.toISODate()!, place, holidays)
  if (holiday) return [`${showDate(day, dateStyle, 'day')} is ${holiday} where they are`]
  if (day.weekday > 5) return [`That is a ${day.weekdayLong} where they are`]
  if (isCallable(at, hours, place, holidays)) return []
  const { from, to } = callingHours(hours, place.country)
  const clock = (minutes: number) =>
    showDate(day.startOf('day').set({ hour: Math.floor(minutes / 60) % 24, minute: minutes % 60 }), dateStyle, 'clock')
  return [
    `${showDate(day, dateStyle, 'clock')} is outside calling hours where they are (${clock(from)} to ${clock(to)})`,
  ]
}

/** A moment that is offered, with what it is called. */
export interface WhenChip {
  label: string
  at: Instant
}

/** At most so many moments are offered. */
const MOST_CHIPS = 7

/** The moments that make sense now, the soonest first: all on working days and in hours where the person is. */
export function whenChips(context: WhenContext): WhenChip[] {
  const { now, kind, place, hours, holidays, goal, best } = context
  const read = (text: string) => {
    const when = readWhen(text, context)
    return 'at' in when ? workingDay(when.at, context) : null
  }
  const soon = now + HOUR - (now % (15 * MINUTE)) + 15 * MINUTE
  const callableSoon = kind === 'task' || (place !== null && isCallable(soon, hours, place, holidays))
  const offered: [label: string | null, at: Instant | null][] = [
    [best === null ? null : `Best time: ${dayLabel(best, context)}`, kind === 'call' ? best : null],
    ['In an hour', kind !== 'meeting' && callableSoon ? soon : null],
    [null, read('tomorrow 10')],
    [null, read('tomorrow 14:30')],
    [null, read('next week')],
    ['In 2 weeks', read('in 2 weeks')],
    [
      goal && `By the list’s goal, ${inWords(goal)}`,
      goal && workingDay(dueAtOf({ listId: '', every: goal, lastAt: now, addedAt: now }), context),
    ],
    ['Next month', kind === 'meeting' ? null : read('next month')],
  ]
  const chips = offered.flatMap(([label, at]) => (at === null ? [] : [{ label: label ?? dayLabel(at, context), at }]))
  const distinct = chips.filter((chip, index) => chips.findIndex((other) => other.at === chip.at) === index)
  return distinct.slice(0, MOST_CHIPS).sort((a, b) => a.at - b.at)
}

/** "Tomorrow 2:30 PM, "Monday 10:00 AM". */
function dayLabel(at: Instant, { now, timeZone, dateStyle }: WhenContext): string {
  const [day, today] = [local(at, timeZone), local(now, timeZone)]
  const nearer = day.hasSame(today, 'day') ? 'Today' : day.toFormat('cccc')
  const name = day.hasSame(today.plus({ days: 1 }), 'day') ? 'Tomorrow' : nearer
  return `${name} ${showDate(day, dateStyle, 'clock')}`
}
