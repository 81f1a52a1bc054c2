import type { Id } from '#core/instant'
import { placePerson } from '#core/places/place'
import type { Db } from '../../db/pool'
import { sql } from '../../db/sql'

interface Known {
  id: Id
  country: string | null
  region: string | null
  timeZone: string
  time_zone_from: string
  numbers: string[]
  home: string
  home_time_zone: string
}

/**
 * Lets the zones of people follow their address and numbers again, but for those whose zone was set by hand; what is
 * planned moves along.
 */
export async function followAddress(client: Db, ids: readonly Id[]): Promise<void> {
  const { rows } = await client.query<Known>(
    sql`
      select
        p.id, p.country, p.region, p.time_zone as "timeZone", p.time_zone_from, t.country as home,
        t.time_zone as home_time_zone,
        array(select n.number from phones n where n.prospect_id = p.id order by n.position, n.id) as numbers
      from prospects p
        cross join team t
      where p.id = any($1::uuid[]) and not p.time_zone_is_manual
    `,
    [ids],
  )
  const placed = rows.flatMap((row) => {
    const { timeZone, timeZoneFrom } = placePerson(
      { country: row.country, region: row.region, numbers: row.numbers.slice(0, 1) },
      { country: row.home, timeZone: row.home_time_zone },
    )
    return timeZone === row.timeZone && timeZoneFrom === row.time_zone_from
      ? []
      : [{ id: row.id, time_zone: timeZone, time_zone_from: timeZoneFrom }]
  })
  await client.query(
    sql`
      update prospects p
      set time_zone = r.time_zone, time_zone_from = r.time_zone_from
      from jsonb_to_recordset($1::jsonb) as r(id uuid, time_zone text, time_zone_from text)
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
      set time_zone = p.time_zone
      from prospects p
      where p.id = t.prospect_id
        and t.prospect_id = any($1::uuid[])
        and t.status = 'open'
        and t.time_zone is distinct from p.time_zone
    `,
    [ids],
  )
}
