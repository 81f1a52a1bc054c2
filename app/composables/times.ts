import { localeOf } from '#core/calendar/dateStyle'
import { useSession } from '~/stores/session'

const formatters = new Map<string, Intl.DateTimeFormat>()

function format(
  timeZone: string,
  options: Intl.DateTimeFormatOptions,
  { locale, hourCycle } = localeOf('us'),
): Intl.DateTimeFormat {
  const key = `${locale} ${hourCycle} ${timeZone}${JSON.stringify(options)}`
  let found = formatters.get(key)
  if (!found) {
    found = new Intl.DateTimeFormat(locale, { timeZone, ...('hour' in options && { hourCycle }), ...options })
    formatters.set(key, found)
  }
  return found
}

const CLOCK = { hour: 'numeric', minute: '2-digit' } as const

/** A length of time (ms) in its largest usual unit. */
function roughly(length: number): [count: number, unit: string] {
  if (length < 3_600_000) return [Math.round(length / 60_000), 'min']
  if (length < 86_400_000) return [Math.round(length / 3_600_000), 'h']
  return [Math.round(length / 86_400_000), length < 129_600_000 ? 'day' : 'days']
}

/** How long something has lasted (ms), as a stopwatch has it: "2:05". */
export function stopwatch(length: number): string {
  const seconds = Math.max(0, Math.floor(length / 1_000))
  return `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, '0')}`
}

/** Times as the reader sees them: in their style, and in their own zone unless another is named. */
export function useTimes() {
  const session = useSession()
  /** What a format says, with the plain spaces that keyboards and searches have. */
  const say = (timeZone: string, options: Intl.DateTimeFormatOptions, at: number) =>
    format(timeZone, options, localeOf(session.user?.dateStyle ?? 'us'))
      .format(at)
      .replaceAll('\u202f', ' ')
  const zoned = (timeZone?: string) => timeZone ?? session.timeZone
  return {
    /** "2:30 PM". */
    clock: (at: number, timeZone?: string) => say(zoned(timeZone), CLOCK, at),
    /** "2 PM", for a scale. */
    hour: (at: number, timeZone?: string) => say(zoned(timeZone), { hour: 'numeric' }, at),
    /** "Mon". */
    weekday: (at: number, timeZone?: string) => say(zoned(timeZone), { weekday: 'short' }, at),
    /** "Mon, Nov 23". */
    day: (at: number, timeZone?: string) =>
      say(zoned(timeZone), { weekday: 'short', day: 'numeric', month: 'short' }, at),
    /** "Mon, Nov 23, 2026". */
    date: (at: number, timeZone?: string) =>
      say(zoned(timeZone), { weekday: 'short', day: 'numeric', month: 'short', year: 'numeric' }, at),
    /** "Monday, November 23". */
    longDay: (at: number, timeZone?: string) =>
      say(zoned(timeZone), { weekday: 'long', day: 'numeric', month: 'long' }, at),
    /** "Mon, Nov 23, 2:30 PM". */
    moment: (at: number, timeZone?: string) =>
      say(zoned(timeZone), { weekday: 'short', day: 'numeric', month: 'short', ...CLOCK }, at),
    /** The zone in a word: "New York". */
    zoneName: (timeZone: string) => timeZone.split('/').at(-1)!.replaceAll('_', ' '),
    /** "2 h ago", "in 3 days", relative to the world's time. */
    ago: (at: number | null) => {
      if (at === null) return ''
      const gap = at - session.now
      const far = Math.abs(gap)
      const [count, unit] = roughly(far)
      if (count === 0) return 'now'
      return gap < 0 ? `${count} ${unit} ago` : `in ${count} ${unit}`
    },
    /** What a date and time input holds for an instant, in the zone. */
    toInput: (at: number, timeZone?: string) =>
      format(zoned(timeZone), {
        year: 'numeric',
        month: '2-digit',
        day: '2-digit',
        hour: '2-digit',
        minute: '2-digit',
        hourCycle: 'h23',
      })
        .formatToParts(at)
        .reduce((parts, part) => ({ ...parts, [part.type]: part.value }), {} as Record<string, string>),
    /** The instant a date ("2026-11-26") and time ("14:30") mean in a zone; NaN where they are no date. */
    fromInput: (date: string, time: string, timeZone?: string) => instantOf(date, time, zoned(timeZone)),
  }
}

/**
 * The instant at which a wall clock in `timeZone` shows the date and time; the later offset where the clock goes back.
 */
function instantOf(date: string, time: string, timeZone: string): number {
  const wall = Date.parse(`${date}T${time}:00Z`)
  // A year that is being typed is none yet.
  if (Number.isNaN(wall) || wall < Date.UTC(1900, 0) || wall > Date.UTC(2200, 0)) return NaN
  const shows = (at: number) => {
    const parts = Object.fromEntries(
      format(timeZone, {
        year: 'numeric',
        month: '2-digit',
        day: '2-digit',
        hour: '2-digit',
        minute: '2-digit',
        second: '2-digit',
        hourCycle: 'h23',
      })
        .formatToParts(at)
        .map((part) => [part.type, part.value]),
    )
    return Date.parse(`${parts.year}-${parts.month}-${parts.day}T${parts.hour}:${parts.minute}:${parts.second}Z`)
  }
  let at = wall
  for (let tries = 0; tries < 3; tries++) at += wall - shows(at)
  return at
}
