import type { Id, Instant } from '#core/instant'
import { newId } from '#shared/newId'
import { db, transaction } from '../../db/pool'
import { limitedTo, visible } from '../access/access'
import { mustSeeCompany } from './companies'
import { notFound } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

interface NoteRow {
  id: Id
  at: Instant
  by: string | null
  body: string
}

/** What the team has found out about a company: notes, newest first, and links. */
export async function researchOf(viewer: Viewer, companyId: Id) {
  await mustSeeCompany(viewer, companyId)
  const [notes, links] = await Promise.all([
    db().query<NoteRow>(
      sql`
        select n.id, ms(n.at) as at, u.name as by, n.body
        from company_notes n
          left join users u on u.id = n.user_id
        where n.company_id = $1
        order by n.at desc, n.id
        limit 200
      `,
      [companyId],
    ),
    db().query<{ id: Id; url: string; label: string }>(
      sql`
        select id, url, label
        from company_links
        where company_id = $1
        order by position
      `,
      [companyId],
    ),
  ])
  return { notes: notes.rows, links: links.rows }
}

/** Keeps a note on a company. */
export async function addCompanyNote(viewer: Viewer, companyId: Id, id: Id, body: string): Promise<void> {
  await mustSeeCompany(viewer, companyId)
  await db().query(
    sql`
      insert into company_notes (id, company_id, user_id, at, body)
      values ($1, $2, $3, world_now(), $4)
      on conflict (id) do nothing
    `,
    [id, companyId, viewer.id, body],
  )
}

/** Keeps a link; it comes last. */
export async function addCompanyLink(viewer: Viewer, companyId: Id, url: string, label: string): Promise<{ id: Id }> {
  return transaction(async (client) => {
    await mustSeeCompany(viewer, companyId, client)
    await client.query(sql`select from companies where id = $1 for no key update`, [companyId])
    const id = newId()
    await client.query(
      sql`
        insert into company_links (id, company_id, url, label, position)
        values ($1, $2, $3, $4, (select count(*) from company_links where company_id = $2))
      `,
      [id, companyId, url, label],
    )
    return { id }
  })
}

/** Takes a link away. */
export async function removeCompanyLink(viewer: Viewer, companyId: Id, id: Id): Promise<void> {
  await mustSeeCompany(viewer, companyId)
  const { rowCount } = await db().query(sql`delete from company_links where id = $2 and company_id = $1`, [
    companyId,
    id,
  ])
  if (!rowCount) throw notFound('link')
}

interface CompanyTouchRow {
  id: Id
  at: Instant
  kind: 'call' | 'email' | 'reply' | 'meeting' | 'task' | 'text' | 'visit'
  prospectId: Id
  name: string
  by: string | null
  outcome: string | null
  subject: string | null
}

/** Every touch with the people of a company whom the viewer sees, newest first: one thread for all. */
export async function companyTouches(viewer: Viewer, companyId: Id) {
  await mustSeeCompany(viewer, companyId)
  const { rows } = await db().query<CompanyTouchRow>(
    sql`
      select
        t.id, ms(t.at) as at, t.kind, p.id as "prospectId", btrim(p.first_name || ' ' || p.last_name) as name,
        u.name as by, o.name as outcome, m.subject
      from prospects p
        join touches t on t.prospect_id = p.id
        left join users u on u.id = t.user_id
        left join outcomes o on o.id = t.outcome_id
        left join email_messages m on m.id = t.message_id
      where p.company_id = $2 and ${visible('p', '$1')}
      order by t.at desc, t.id
      limit 500
    `,
    [limitedTo(viewer), companyId],
  )
  const clock = await firstRow(db().query<{ now: Instant }>(sql`select ms(world_now()) as now`))
  return { now: clock!.now, touches: rows }
}
