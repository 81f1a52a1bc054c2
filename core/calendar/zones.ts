import { isZone } from './local'

/**
 * The prevailing time zone by country, and by subdivision where a country spans several (IANA tz database
 * names; the pairing of states and provinces is common knowledge of the zones' extent, from memory). States that
 * are split are given the zone of most of their people; a person's own zone can be set to correct it.
 */
const COUNTRY: Record<string, string> = {
  US: 'America/New_York', CA: 'America/Toronto', GB: 'Europe/London', IE: 'Europe/Dublin', DE: 'Europe/Berlin',
  AT: 'Europe/Vienna', CH: 'Europe/Zurich', FR: 'Europe/Paris', NL: 'Europe/Amsterdam', BE: 'Europe/Brussels',
  ES: 'Europe/Madrid', PT: 'Europe/Lisbon', IT: 'Europe/Rome', DK: 'Europe/Copenhagen', SE: 'Europe/Stockholm',
  NO: 'Europe/Oslo', FI: 'Europe/Helsinki', PL: 'Europe/Warsaw', CZ: 'Europe/Prague', AU: 'Australia/Sydney',
  NZ: 'Pacific/Auckland', JP: 'Asia/Tokyo', SG: 'Asia/Singapore', IN: 'Asia/Kolkata', ZA: 'Africa/Johannesburg',
  MX: 'America/Mexico_City', BR: 'America/Sao_Paulo',
}

const states = (zone: string, names: string) => Object.fromEntries(names.split(' ').map(name => [name, zone]))

const REGION: Record<string, Record<string, string>> = {
  US: {
    ...states('America/Chicago', 'AL AR IA IL KS LA MN MO MS ND NE OK SD TN TX WI'),
    ...states('America/Denver', 'CO ID MT NM UT WY'),
    ...states('America/Los_Angeles', 'CA NV OR WA'),
    ...states('America/Detroit', 'MI'),
    AZ: 'America/Phoenix', AK: 'America/Anchorage', HI: 'Pacific/Honolulu', PR: 'America/Puerto_Rico',
  },
  CA: {
    BC: 'America/Vancouver', YT: 'America/Whitehorse', AB: 'America/Edmonton', NT: 'America/Edmonton',
    SK: 'America/Regina', MB: 'America/Winnipeg', NB: 'America/Halifax', NS: 'America/Halifax',
    PE: 'America/Halifax', NL: 'America/St_Johns',
  },
  AU: {
    QLD: 'Australia/Brisbane', SA: 'Australia/Adelaide', WA: 'Australia/Perth', NT: 'Australia/Darwin',
    TAS: 'Australia/Hobart', VIC: 'Australia/Melbourne',
  },
}

/**
 * The time zone somebody lives by: their own if set and known, else by region and country, else `fallback`
 * (the team's own zone).
 */
export function zoneOf(place: { zone?: string | null, country?: string | null, region?: string | null }, fallback: string): string {
  if (place.zone && isZone(place.zone)) return place.zone
  const country = place.country?.toUpperCase()
  if (!country) return fallback
  const region = place.region?.toUpperCase()
  return (region && REGION[country]?.[region]) || COUNTRY[country] || fallback
}
