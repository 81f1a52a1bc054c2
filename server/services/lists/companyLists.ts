import type { Id } from '#core/instant'
import type { z } from 'zod'
import type { companyRowSchema } from '#shared/api/lists'
import { db } from '../../db/pool'
import { limitedTo, visible } from '../access/access'
import { cursorText, readCursor } from './cursors'
import { filterWorld, NOT_ARCHIVED } from './filters'
import { question, type PeopleAsked } from './people'
import type { Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

export type CompanyRow = z.infer<typeof companyRowSchema>

const KEYS = {
  name: { sql: 'lower(f.name)', type: 'text' },
  people: { sql: 'f.fitting', type: 'bigint' },
  lastTouch: { sql: 'ms(f.last)', type: 'bigint' },
  size: { sql: 'f.size', type: 'bigint' },
} as const

/** The filter's tables, with companies first: where nobody is, what is asked of the company is asked all the same. */
const COMPANIES_FROM = 'companies c left join prospects p on p.company_id = c.id and p.merged_into is null'

/**
 * The companies that fit, as SQL: where someone whom the viewer sees does, or where nobody is and the company itself
 * does.
 */
async function fitting(viewer: Viewer, asked: PeopleAsked) {
  const about = await question(viewer, asked, await filterWorld(viewer), 'companies')
  const inSight = about.showsRemoved ? '' : ` and (p.id is null or ${NOT_ARCHIVED})`
  return {
    about,
    found: sql`
      select c.id, c.name, c.size, count(p.id) as fitting, max(p.last_touch_at) as last
      from ${COMPANIES_FROM}
      where ${about.where}${inSight}
      group by c.id
    `,
  }
}

/** How many companies fit. */
export async function countCompanies(viewer: Viewer, asked: PeopleAsked): Promise<number> {
  const { about, found } = await fitting(viewer, asked)
  const counted = await firstRow(
    db().query<{ count: number }>(sql`select count(*) as count from (${found}) f`, about.values),
  )
  return counted!.count
}

type Key = (typeof KEYS)[keyof typeof KEYS]

/** What comes after a row in the order; rows without a value come last. */
function beyond(
  after: { value: unknown; id: Id },
  key: Key,
  than: '<' | '>',
  parameter: (value: unknown) => string,
): string {
  const id = () => `${parameter(after.id)}::uuid`
  if (after.value === null) return `(${key.sql} is null and f.id ${than} ${id()})`
  return `(${key.sql} is null or (${key.sql}, f.id) ${than} (${parameter(after.value)}::${key.type}, ${id()}))`
}

/**
 * The companies where someone fits, or where nobody is and what is asked holds of the company itself: the same question
 * as for people, counted by company, with how many there fit and how many there are. Companies without a value in the
 * order come last.
 */
export async function findCompanies(
  viewer: Viewer,
  asked: PeopleAsked & { sort: { field: keyof typeof KEYS; down: boolean }; after?: string; limit: number },
): Promise<{ companies: CompanyRow[]; next: string | null; count: number }> {
  const { about, found } = await fitting(viewer, asked)
  const key = KEYS[asked.sort.field]
  const direction = asked.sort.down ? 'desc' : 'asc'
  const counted = await firstRow(
    db().query<{ count: number }>(sql`select count(*) as count from (${found}) f`, about.values),
  )
  const after = asked.after ? readCursor(asked.after) : null
  const than = asked.sort.down ? '<' : '>'
  const page = after ? beyond(after, key, than, about.parameter) : 'true'
  const me = about.parameter(limitedTo(viewer))
  const { rows } = await db().query<CompanyRow & { sorted: string | number | null }>(
    sql`
      with f as (
        select f.*, ${key.sql} as sorted
        from (${found}) f
        where ${page}
        order by ${key.sql} ${direction} nulls last, f.id ${direction}
        limit ${asked.limit + 1}
      )
      select
        c.id, c.name, c.status, c.domain, c.industry, c.size,
        concat_ws(', ', nullif(c.city, ''), nullif(c.region, ''), nullif(c.country, '')) as place, f.fitting,
        f.sorted, (select count(*) from prospects p where p.company_id = c.id and ${visible('p', me)}) as people,
        (select ms(max(p.last_touch_at)) from prospects p where p.company_id = c.id and ${visible('p', me)}) as
          "lastTouchAt"
      from f
        join companies c on c.id = f.id
      order by f.sorted ${direction} nulls last, c.id ${direction}
    `,
    about.values,
  )
  const here = rows.slice(0, asked.limit)
  const last = here.at(-1)
  return {
    companies: here.map(({ sorted: _, ...row }) => row),
    next: rows.length > asked.limit && last ? cursorText({ value: last.sorted, id: last.id as Id }) : null,
    count: counted!.count,
  }
}
