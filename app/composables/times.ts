import { useSession } from '~/stores/session'

const formatters = new Map<string, Intl.DateTimeFormat>()

function format(zone: string, options: Intl.DateTimeFormatOptions): Intl.DateTimeFormat {
  const key = `${zone}${JSON.stringify(options)}`
  let found = formatters.get(key)
  if (!found) formatters.set(key, (found = new Intl.DateTimeFormat('en-US', { timeZone: zone, ...options })))
  return found
}

/** What a format says, with the plain spaces that keyboards and searches have. */
const say = (zone: string, options: Intl.DateTimeFormatOptions, at: number) =>
  format(zone, options).format(at).replaceAll('\u202f', ' ')
const CLOCK = { hour: 'numeric', minute: '2-digit' } as const

/** A length of time (ms) in its largest usual unit. */
function roughly(length: number): [count: number, unit: string] {
  if (length < 3_600_000) return [Math.round(length / 60_000), 'min']
  if (length < 86_400_000) return [Math.round(length / 3_600_000), 'h']
  return [Math.round(length / 86_400_000), length < 129_600_000 ? 'day' : 'days']
}

/** Times as the reader sees them: in their own zone unless another is named. */
export function useTimes() {
  const session = useSession()
  const zoned = (zone?: string) => zone ?? session.zone
  return {
    /** "2:30 PM". */
    clock: (at: number, zone?: string) => say(zoned(zone), CLOCK, at),
    /** "2 PM", for a scale. */
    hour: (at: number, zone?: string) => say(zoned(zone), { hour: 'numeric' }, at),
    /** "Mon, Nov 23". */
    day: (at: number, zone?: string) => say(zoned(zone), { weekday: 'short', day: 'numeric', month: 'short' }, at),
    /** "Monday, November 23". */
    longDay: (at: number, zone?: string) => say(zoned(zone), { weekday: 'long', day: 'numeric', month: 'long' }, at),
    /** "Mon, Nov 23, 2:30 PM". */
    moment: (at: number, zone?: string) =>
      say(zoned(zone), { weekday: 'short', day: 'numeric', month: 'short', ...CLOCK }, at),
    /** The zone in a word: "New York". */
    zoneName: (zone: string) => zone.split('/').at(-1)!.replaceAll('_', ' '),
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
    toInput: (at: number, zone?: string) =>
      format(zoned(zone), {
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
    fromInput: (date: string, time: string, zone?: string) => instantOf(date, time, zoned(zone)),
  }
}

/** The instant at which a wall clock in `zone` shows the date and time; the later offset where the clock goes back. */
function instantOf(date: string, time: string, zone: string): number {
  const wall = Date.parse(`${date}T${time}:00Z`)
  // A year that is being typed is none yet.
  if (Number.isNaN(wall) || wall < Date.UTC(1900, 0) || wall > Date.UTC(2200, 0)) return NaN
  const shows = (at: number) => {
    const parts = Object.fromEntries(
      format(zone, {
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
