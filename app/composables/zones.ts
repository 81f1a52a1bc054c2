/** The zones that teams work in most (common practice, no published source). */
const USUAL_ZONES = [
  'America/New_York',
  'America/Chicago',
  'America/Denver',
  'America/Phoenix',
  'America/Los_Angeles',
  'Europe/London',
  'Europe/Berlin',
  'Australia/Sydney',
]

/** Time zones to choose from: those given and the usual ones first, then all others. IANA names. */
export function zonesInOrder(first: readonly string[] = []): { usual: string[]; others: string[] } {
  const usual = [...new Set([...first.filter(Boolean), ...USUAL_ZONES])]
  return { usual, others: Intl.supportedValuesOf('timeZone').filter((name) => !usual.includes(name)) }
}
