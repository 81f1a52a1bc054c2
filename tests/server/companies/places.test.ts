import { beforeAll, describe, expect, it } from 'vitest'
import { countProspects, findProspects } from '../../../shared/api/lists'
import { findPlaces, mapProspects } from '../../../shared/api/places'
import { editCompany, getCompany } from '../../../shared/api/companies'
import { editProspect, getProspect } from '../../../shared/api/prospects'
import { db } from '../../../server/db/pool'
import { addPeople } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import '../database'
import { sql } from '../../../server/db/sql'

const team = withTeam()

interface Address {
  city?: string | null
  region?: string | null
  country?: string | null
}
interface PlaceRow {
  name: string
  region: string | null
  country: string
  position: { x: number; y: number }
}

const placeOf = async ({ city, region, country }: Address) =>
  (
    await db().query<PlaceRow>(
      sql`
        select x.name, x.region, x.country, x.position
        from places x
        where x.id = place_of($1, $2, $3)
      `,
      [city, region, country],
    )
  ).rows[0] ?? null
async function live(id: string, { city = null, region = null, country = null }: Address): Promise<void> {
  const { version } = await team.asManager.ok(getProspect, { params: { id } })
  await team.asManager.ok(editProspect, { params: { id }, body: { version, city, region, country } })
}
const found = async (filter: string) =>
  (await team.asManager.ok(findProspects, { body: { filter } })).people.map((person) => person.id).sort()

describe('the gazetteer', () => {
  // Positions as any atlas has them, to about a tenth of a degree.
  it.each<[Address, [longitude: number, latitude: number]]>([
    [{ city: 'Vienna', country: 'AT' }, [16.37, 48.21]],
    [{ city: 'WIEN', country: 'at' }, [16.37, 48.21]],
    [{ city: 'Sydney', country: 'AU' }, [151.21, -33.87]],
    [{ city: 'São Paulo', country: 'BR' }, [-46.64, -23.55]],
    [{ city: 'sao paulo', country: 'BR' }, [-46.64, -23.55]],
    [{ city: 'Springfield', region: 'IL', country: 'US' }, [-89.64, 39.8]],
    [{ city: 'Springfield', region: 'Massachusetts', country: 'US' }, [-72.59, 42.1]],
    [{ city: 'Nelson', region: 'British Columbia', country: 'CA' }, [-117.29, 49.49]],
    [{ city: 'Nelson', country: 'NZ' }, [173.28, -41.27]],
    [{ city: 'New York', region: 'NY' }, [-74.01, 40.71]],
    [{ city: 'München', country: 'DE' }, [11.58, 48.14]],
  ])('knows where %j is', async (address, [longitude, latitude]) => {
    const place = await placeOf(address)
    expect(place!.position.x).toBeCloseTo(longitude, 0)
    expect(Math.abs(place!.position.x - longitude)).toBeLessThan(0.15)
    expect(Math.abs(place!.position.y - latitude)).toBeLessThan(0.15)
  })
  it.each<Address>([
    { city: 'Springfield' },
    { city: 'Springfield', region: 'ON', country: 'US' },
    { city: 'Nowhere At All', country: 'US' },
    { city: '', country: 'US' },
    { city: 'Vienna', country: 'XX' },
    { city: '%', country: 'US' },
  ])('does not guess where %j is', async (address) => {
    expect(await placeOf(address)).toBeNull()
  })
  it('offers towns by the beginning of their name, with their region', async () => {
    const offered = async (q: string) => (await team.asRep.ok(findPlaces, { query: { q } })).places
    expect((await offered('ithac'))[0]).toMatchObject({ name: 'Ithaca', region: 'NY', country: 'US' })
    expect((await offered('springfield, vt'))[0]).toMatchObject({ name: 'Springfield', region: 'VT' })
    expect((await offered('Zürich, CH'))[0]).toMatchObject({ country: 'CH' })
    expect(await offered('%')).toEqual([])
    expect(await offered('  ')).toEqual([])
    expect((await offered('s')).length).toBeLessThanOrEqual(12)
  })
})

describe('where people are', () => {
  let ids: string[]
  let others: string[]
  let company: string
  beforeAll(async () => {
    ids = (await addPeople(5, team.rep.id, 'Marlpit Creamery')).ids
    others = (await addPeople(2, team.other.id, 'Halden Cider')).ids
    company = (await team.asManager.ok(getProspect, { params: { id: ids[0]! } })).company!.id
    await live(ids[0]!, { city: 'Ithaca', region: 'NY', country: 'US' })
    await live(ids[1]!, { city: 'Binghamton', region: 'NY', country: 'US' })
    await live(ids[2]!, { city: 'Suva', country: 'FJ' })
    await live(ids[3]!, { city: 'Nowhere At All', country: 'US' })
    await live(others[0]!, { city: 'Apia', country: 'WS' })
  })
  const near = 'place is within 75 km of "Ithaca" (42.44 -76.5)'

  it('is asked by distance', async () => {
    // Ithaca to Binghamton: about 65 km as the crow flies (any atlas).
    expect(await found(near)).toEqual([ids[0], ids[1]].sort())
    expect(await found('place is within 50 km of "Ithaca" (42.44 -76.5)')).toEqual([ids[0]])
    expect(await found('place is more than 75 km from "Ithaca" (42.44 -76.5)')).toEqual([ids[2], others[0]].sort())
    expect(await found(`none of (${near}; place is not set)`)).toEqual([ids[2], others[0]].sort())
  })
  it('is asked by a drawn area, over the date line too', async () => {
    const sea = 'inside (-20 175, -20 -170, -10 -170, -10 175)'
    expect(await found(`place is ${sea}`)).toEqual([ids[2], others[0]].sort())
    expect(await found('place is inside (-20 175, -20 179.99, -10 179.99, -10 175)')).toEqual([ids[2]])
    expect(await found(`place is not ${sea}`)).toHaveLength(5)
    expect((await team.asRep.ok(countProspects, { body: { filter: `place is ${sea}` } })).count).toBe(1)
  })
  it('follows the address, however it changes, and the company’s where a prospect has none', async () => {
    expect(await found('place is not set')).toEqual([ids[3], ids[4], others[1]].sort())
    const { version } = await team.asManager.ok(getCompany, { params: { id: company } })
    await team.asManager.ok(editCompany, {
      params: { id: company },
      body: { version, city: 'Viroqua', region: 'WI', country: 'US' },
    })
    const viroqua = 'place is within 5 km of "Viroqua" (43.56 -90.89)'
    expect(await found(viroqua)).toEqual([ids[4]])
    expect(await team.asManager.ok(getCompany, { params: { id: company } })).toMatchObject({
      place: { name: 'Viroqua', region: 'WI' },
    })
    await db().query(sql`update prospects set city = 'Viroqua', region = 'Wisconsin' where id = $1`, [ids[0]])
    expect(await found(viroqua)).toEqual([ids[0], ids[4]].sort())
    await live(ids[0]!, { city: 'Ithaca', region: 'NY', country: 'US' })
  })
  it('groups visible prospects by place, with those without one', async () => {
    const all = await team.asManager.ok(mapProspects, { body: {} })
    expect(all.spots.map((spot) => [spot.name, spot.people, spot.companies])).toEqual([
      ['Apia', 1, 1],
      ['Binghamton', 1, 1],
      ['Ithaca', 1, 1],
      ['Suva', 1, 1],
      ['Viroqua', 1, 1],
    ])
    expect(all).toMatchObject({ people: 5, beyond: 0, nowhere: 2 })
    expect((await team.asRep.ok(mapProspects, { body: {} })).spots.map((spot) => spot.name)).toEqual([
      'Binghamton',
      'Ithaca',
      'Suva',
      'Viroqua',
    ])
    expect((await team.asRep.ok(mapProspects, { body: { filter: near } })).people).toBe(2)
    expect((await team.asManager.ok(mapProspects, { body: { company } })).people).toBe(4)
    expect((await team.asOther.ok(mapProspects, { body: { company } })).people).toBe(0)
  })
  it.each([
    ['place is inside (80 0, 80 120, 80 -120)', 'pole'],
    ['place is inside (1 1, 2 2)', '3 to'],
    ['place is within 50 km of "Ithaca"', 'Expected "("'],
    ['place is within 0 km of "Ithaca" (42 -76)', '0.1 to'],
    ['place is within 5 km of "Ithaca" (95 -76)', 'No place lies there'],
    ['place is somewhere', 'Where?'],
    ['place is inside (5 5, 5 5, 5 5)', 'encloses nothing'],
  ])('that cannot be asked says why: %s', async (filter, message) => {
    const refused = await team.asRep.refused(countProspects, 400, { body: { filter } })
    expect(refused.message).toContain(message)
  })
})
