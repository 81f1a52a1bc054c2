import { FILTER_FROM } from '#core/filter/sql'
import { PLACE_ID } from '#core/filter/sqlPlace'
import type { Id } from '#core/instant'
import type { Place, Spot } from '#shared/api/places'
import { db } from '../../db/pool'
import { filterWorld, IN_SIGHT } from '../lists/filters'
import { question, type PeopleAsked } from '../lists/people'
import type { Viewer } from '../access/viewer'
import { sql } from '../../db/sql'

export const PLACE = `x.id, x.name, x.region, x.country, x.position[0] as longitude, x.position[1] as latitude`

/** How many towns are offered. */
const OFFERED = 12

/** Towns whose name begins so, the most populous first; "Springfield, IL" or "Springfield, US" tells them apart. */
export async function findPlaces(q: string): Promise<Place[]> {
  const [name = '', ...where] = q.split(',').map((part) => part.trim())
  const { rows } = await db().query<Place>(
    sql`
      select ${PLACE}
      from places x
      where x.name_key like replace(replace(place_key($1), '%', ''), '_', '') || '%'
        and place_key($1) <> ''
        and not exists (
          select
          from unnest($2::text[]) said
          where said <> '' and not (x.country = upper(said) or place_key(said) = any(x.region_keys))
        )
      order by x.population desc, x.id
      limit ${OFFERED}
    `,
    [name, where],
  )
  return rows
}

/** At most how many places a map shows. */
const MOST_SPOTS = 2_000

interface PeopleOnMap {
  spots: Spot[]
  people: number
  beyond: number
  nowhere: number
}

/** Where the people are whom someone asks for, by place, most people first. */
export async function mapPeople(viewer: Viewer, asked: PeopleAsked & { company?: Id }): Promise<PeopleOnMap> {
  const about = await question(viewer, asked, await filterWorld(viewer))
  const at = asked.company ? ` and p.company_id = ${about.parameter(asked.company)}::uuid` : ''
  const { rows } = await db().query<Spot & { id: number | null; all: number }>(
    sql`
      with found as (
        select ${PLACE_ID} as place_id, count(*) as people, count(distinct p.company_id) as companies
        from ${FILTER_FROM}
        where ${about.where}${about.showsRemoved ? '' : IN_SIGHT}${at}
        group by 1
      )
      select ${PLACE}, f.people, f.companies, sum(f.people) over ()::int as all
      from found f
        left join places x on x.id = f.place_id
      order by (x.id is null) desc, f.people desc, x.name, x.id
      limit ${MOST_SPOTS + 1}
    `,
    about.values,
  )
  const spots = rows.filter((row) => row.id !== null).slice(0, MOST_SPOTS)
  const nowhere = rows.filter((row) => row.id === null).reduce((sum, row) => sum + row.people, 0)
  const people = spots.reduce((sum, spot) => sum + spot.people, 0)
  return {
    spots: spots.map(({ all: _, ...spot }) => spot),
    people,
    nowhere,
    beyond: (rows[0]?.all ?? 0) - people - nowhere,
  }
}
