import type { SqlParts } from '#core/filter/sqlTranslation'
import { nextActionSql } from '#core/filter/nextAction'
import { nameKey } from '#core/text/names'
import { sql } from '../../db/sql'

/** A person as a row of a table, over JOINED. */
export const ROW = sql`
  p.id, btrim(p.first_name || ' ' || p.last_name) as name, p.title, p.time_zone as "timeZone",
  ms(p.created_at) as "createdAt",
  case when c.id is not null then json_build_object('id', c.id, 'name', c.name, 'status', c.status) end as
    company, json_build_object('id', s.id, 'name', s.name, 'kind', s.kind) as stage,
  case when u.id is not null then json_build_object('id', u.id, 'name', u.name) end as owner, p.rating,
  (
    select e.address
    from email_addresses e
    where e.prospect_id = p.id
    order by (e.status = 'bounced'), e.position
    limit 1
  ) as email, (select n.number from phones n where n.prospect_id = p.id order by n.position limit 1) as phone,
  ms(p.last_touch_at) as "lastTouchAt",
  ${nextActionSql('p.id')} as "nextAt"
`
/** What a row needs beside people and their companies. */
const ROW_JOINS = 'join stages s on s.id = p.stage_id left join users u on u.id = p.owner_id'
export const JOINED = `prospects p left join companies c on c.id = p.company_id ${ROW_JOINS}`

/** Anyone who has what someone types in their name, company, address or number. */
export function searchCondition(search: string, parts: SqlParts): string {
  const { parameter } = parts
  parts.readsCompany = true
  const contains = (text: string) => `%${text.replace(/[\\%_]/g, '\\$&')}%`
  const like = parameter(contains(search.toLowerCase()))
  // Names are kept without accents, too: "schäfer" and "schafer" find the same.
  const key = nameKey(search)
  const folded = key && key !== search.toLowerCase() ? parameter(contains(key)) : like
  const digits = search.replace(/\D/g, '')
  const phone =
    digits.length > 3
      ? ` or exists (select from phones n where n.prospect_id = p.id and n.number like ${parameter(`%${digits}%`)})`
      : ''
  // A name and a company together: every word is somewhere in either.
  const words = key.split(' ').filter(Boolean)
  const across =
    words.length > 1
      ? ` or (${words.map((word) => `concat_ws(' ', p.name_key, c.name_key) like ${parameter(contains(word))}`).join(' and ')})`
      : ''
  return sql`
    (
      p.name_key like ${folded}
        or lower(c.name) like ${like}
        or c.name_key like ${folded}
        or exists (select from email_addresses e where e.prospect_id = p.id and e.address like ${like})${phone}${across}
    )
  `
}
