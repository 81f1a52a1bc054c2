import type { DateTime } from 'luxon'
import type { DateStyle } from '../enumerations'

const LOCALES: Readonly<Record<DateStyle, { locale: string; hourCycle: 'h12' | 'h23' }>> = {
  us: { locale: 'en-US', hourCycle: 'h12' },
  us_24: { locale: 'en-US', hourCycle: 'h23' },
  day_first: { locale: 'en-GB', hourCycle: 'h23' },
}

/** The locale (BCP 47) and the clock that a style of dates stands for, as Intl takes them. */
export function localeOf(style: DateStyle): { locale: string; hourCycle: 'h12' | 'h23' } {
  return LOCALES[style]
}

const CLOCK = { hour: 'numeric', minute: '2-digit' } as const
const DAY = { weekday: 'short', month: 'short', day: 'numeric' } as const
const PARTS = {
  /** "2:30 PM" */ clock: CLOCK,
  /** "Fri, Nov 27" */ day: DAY,
  /** "Fri, Nov 27, 2:30 PM" */ moment: { ...DAY, ...CLOCK },
  /** "Nov 27, 2026" */ date: { month: 'short', day: 'numeric', year: 'numeric' },
} as const satisfies Record<string, Intl.DateTimeFormatOptions>

/** A moment as a reader of the style sees it, by the clock of `time`, with the plain spaces that keyboards have. */
export function showDate(time: DateTime, style: DateStyle, parts: keyof typeof PARTS): string {
  const { locale, hourCycle } = LOCALES[style]
  const options: Intl.DateTimeFormatOptions = { ...PARTS[parts] }
  if (options.hour) options.hourCycle = hourCycle
  return time.toLocaleString(options, { locale }).replaceAll('\u202f', ' ')
}
