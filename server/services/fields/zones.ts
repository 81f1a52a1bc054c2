import type { Id } from '#core/instant'
import { placePerson } from '#core/places/place'
import type { Db } from '../../db/pool'
import { sql } from '../../db/sql'

interface Known {
  id: Id
  country: string | null
  region: string | null
  zone: string
  zone_from: string
  numbers: string[]
  home: string
  home_zone: string
}

/**
 * Lets the zones of people follow their address and numbers again, but for those whose zone was set by hand; what is
 * planned moves along.
 */
export async function followAddress(client: Db, ids: readonly Id[]): Promise<void> {
  const { rows } = await client.query<Known>(
    sql`
      select
        p.id, p.country, p.region, p.zone, p.zone_from, t.country as home, t.zone as home_zone,
        array(select n.number from phones n where n.prospect_id = p.id order by n.position, n.id) as numbers
      from prospects p
        cross join team t
      where p.id = any($1::uuid[]) and not p.zone_by_hand
    `,
    [ids],
  )
  const placed = rows.flatMap((row) => {
    const { zone, zoneFrom } = placePerson(
      { country: row.country, region: row.region, numbers: row.numbers.slice(0, 1) },
      { country: row.home, zone: row.home_zone },
    )
    return zone === row.zone && zoneFrom === row.zone_from ? [] : [{ id: row.id, zone, zone_from: zoneFrom }]
  })
  await client.query(
    sql`
      update prospects p
      set zone = r.zone, zone_from = r.zone_from
      from jsonb_to_recordset($1::jsonb) as r(id uuid, zone text, zone_from text)
      where p.id = r.id
    `,
    [JSON.stringify(placed)],
  )
  await moveTasks(
    client,
    placed.map((one) => one.id),
  )
}

/** Lets the open tasks of people stand in the zones their people live by. */
export async function moveTasks(client: Db, ids: readonly Id[]): Promise<void> {
  await client.query(
    sql`
      update tasks t
      set zone = p.zone
      from prospects p
      where p.id = t.prospect_id
        and t.prospect_id = any($1::uuid[])
        and t.status = 'open'
        and t.zone is distinct from p.zone
    `,
    [ids],
  )
}
