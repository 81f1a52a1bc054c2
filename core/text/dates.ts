import type { DateOrder } from '../enumerations'
const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec']

/** Years of two digits are of this century up to here. Common practice, no published source. */
const PIVOT = 70

const iso = (year: number, month: number, day: number): string | null => {
  const date = new Date(Date.UTC(year, month - 1, day))
  const real = year >= 1 && year <= 9999 && date.getUTCMonth() === month - 1 && date.getUTCDate() === day
  return real
    ? `${String(year).padStart(4, '0')}-${String(month).padStart(2, '0')}-${String(day).padStart(2, '0')}`
    : null
}

const fullYear = (text: string) =>
  text.length > 2 ? Number(text) : Number(text) + (Number(text) < PIVOT ? 2000 : 1900)

/**
 * Reads a day as people write it: ISO (2026-12-31, with a time behind it or not), 12/31/2026, 31.12.2026, 12-31-26, Dec
 * 31, 2026, 31 December 2026. Where day and month could be either, `order` decides. Gives the ISO day, or null where it
 * is none.
 */
export function readDay(text: string, order: DateOrder): string | null {
  const value = text.trim()
  const ordered = /^(\d{4})[-/.](\d{1,2})[-/.](\d{1,2})(?:[T ].*)?$/.exec(value)
  if (ordered) return iso(Number(ordered[1]), Number(ordered[2]), Number(ordered[3]))
  const numbers = /^(\d{1,2})[-/.](\d{1,2})[-/.](\d{2}|\d{4})(?: \d{1,2}:.*)?$/.exec(value)
  if (numbers) {
    const [first, second, year] = [Number(numbers[1]), Number(numbers[2]), fullYear(numbers[3]!)]
    const monthFirst = isEither(value) ? order === 'month' : first <= 12
    return monthFirst ? iso(year, first, second) : iso(year, second, first)
  }
  const named =
    /^(?:[a-z]{3,9},? )?(?:([a-z]{3,9})\.? (\d{1,2})(?:st|nd|rd|th)?,?|(\d{1,2})\.? ([a-z]{3,9})\.?,?) (\d{4})$/i.exec(
      value,
    )
  if (!named) return null
  const month = MONTHS.indexOf((named[1] ?? named[4])!.slice(0, 3).toLowerCase()) + 1
  return month ? iso(Number(named[5]), month, Number(named[2] ?? named[3])) : null
}

/** Whether a date in numbers can be read with the month first and with the day first, and is another day then. */
export function isEither(text: string): boolean {
  const numbers = /^(\d{1,2})[-/.](\d{1,2})[-/.](?:\d{2}|\d{4})\b/.exec(text.trim())
  if (!numbers) return false
  const [first, second] = [Number(numbers[1]), Number(numbers[2])]
  return first >= 1 && second >= 1 && first <= 12 && second <= 12 && first !== second
}

/**
 * Which order the dates of a column are written in, as far as they say: by one that fits one order alone; null where
 * none does.
 */
export function orderOf(values: readonly string[]): DateOrder | null {
  for (const value of values) {
    const numbers = /^(\d{1,2})[-/.](\d{1,2})[-/.](?:\d{2}|\d{4})\b/.exec(value.trim())
    if (!numbers) continue
    if (Number(numbers[1]) > 12) return 'day'
    if (Number(numbers[2]) > 12) return 'month'
  }
  return null
}

/**
 * A sum or a number as people write it: "$1,250.50", "1 250 EUR", "(300)" for less than nothing; null where it is none.
 */
export function readAmount(text: string): number | null {
  const value = text
    .trim()
    .replace(/^[A-Z]{3}\s|\s?[A-Z]{3}$/g, '')
    .replace(/[$€£¥]/g, '')
    .replace(/\s/g, '')
  const negative = /^\((.*)\)$/.exec(value)
  const plain = (negative?.[1] ?? value).replace(/,(?=\d{3}(?:\D|$))/g, '')
  if (!/^[+-]?\d+(\.\d+)?$/.test(plain)) return null
  return negative ? -Number(plain) : Number(plain)
}
