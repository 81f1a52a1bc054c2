import { logEvent } from '../../engine/eventLog'
import type { Id } from '#core/instant'
import { nameKey } from '#core/text/names'
import { db, type Db } from '../../db/pool'
import { recordEvents } from '../../engine/recordEvents'
import { mustSee } from '../access/access'
import { Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

/** The person and everyone who was merged into them. */
const THEM = sql`
  with recursive them as (
    select $1::uuid as id
    union
    select p.id
    from prospects p
      join them on p.merged_into = them.id
  )
`

/** What is kept of one person, table by table; each is a query over `them`. */
const TABLES: Readonly<Record<string, string>> = {
  person: sql`
    select
      id, first_name, last_name, title, country, region, city, postal_code, time_zone, source, stage_id, rating, score,
      status, stop_call, stop_email, email_types, custom, created_at
    from prospects
    where id in (select id from them)
  `,
  company: sql`
    select c.name, c.domain
    from companies c
      join prospects p on p.company_id = c.id
    where p.id in (select id from them)
  `,
  emailAddresses: sql`
    select address, status
    from email_addresses
    where prospect_id in (select id from them)
    order by position
  `,
  phoneNumbers: sql`
    select number, kind, status, tags
    from phones
    where prospect_id in (select id from them)
    order by position
  `,
  notes: sql`
    select at, body
    from notes
    where prospect_id in (select id from them)
    order by at
  `,
  emailsSent: sql`
    select sent_at, status, subject, body, opened_at, opens, clicked_at, clicks, clicked_url
    from email_messages
    where prospect_id in (select id from them)
    order by send_at
  `,
  emailsReceived: sql`
    select received_at, kind, subject, body
    from replies
    where prospect_id in (select id from them)
    order by received_at
  `,
  touches: sql`
    select at, kind, counts_as, reason
    from touches
    where prospect_id in (select id from them)
    order by at
  `,
  calls: sql`
    select started_at, ended_at
    from calls
    where prospect_id in (select id from them)
    order by started_at
  `,
  otherDialers: sql`
    select e.dialer, e.exported_at, x.number, x.result_at
    from call_export_people x
      join call_exports e on e.id = x.export_id
    where x.prospect_id in (select id from them)
    order by e.exported_at
  `,
  tasks: sql`
    select kind, title, due_at, status, done_at
    from tasks
    where prospect_id in (select id from them)
    order by due_at
  `,
  meetings: sql`
    select title, start_at, end_at, time_zone, status
    from meetings
    where prospect_id in (select id from them)
    order by start_at
  `,
  deals: sql`
    select name, status, value, opened_at
    from deals
    where prospect_id in (select id from them)
    order by opened_at
  `,
  cadences: sql`
    select c.name, e.status, e.started_at, e.ended_at, e.exit
    from enrollments e
      join cadences c on c.id = e.cadence_id
    where e.prospect_id in (select id from them)
    order by e.started_at
  `,
  tags: sql`
    select t.name
    from prospect_tags x
      join tags t on t.id = x.tag_id
    where x.prospect_id in (select id from them)
    order by 1
  `,
  lists: sql`
    select l.name
    from list_members m
      join lists l on l.id = m.list_id
    where m.prospect_id in (select id from them)
    order by 1
  `,
  bulkActions: sql`
    select a.at, b.changes
    from bulk_people b
      join bulk_actions a on a.id = b.action_id
    where b.prospect_id in (select id from them) and b.changes is not null
    order by a.at
  `,
  events: sql`
    select h.at, h.kind, h.payload, x.texts
    from events h
      left join event_texts x on x.event_id = h.id
    where h.prospect_id in (select id from them)
    order by h.at
  `,
}

/** Everything that is kept of one person, as a record for them to have: times in ISO 8601, UTC. */
export async function exportPerson(viewer: Viewer, prospectId: Id): Promise<Record<string, unknown>> {
  await mustSee(viewer, prospectId)
  const parts = await Promise.all(
    Object.entries(TABLES).map(
      async ([name, query]) => [name, (await db().query(`${THEM} ${query}`, [prospectId])).rows] as const,
    ),
  )
  return { exportedAt: new Date().toISOString(), ...Object.fromEntries(parts) }
}

/** What erasing does to each table, in order. The event log holds no names and no prose, and stays. */
const ERASE = [
  // Numbers that someone else has too, as a switchboard's, stay callable.
  sql`
    insert into erased_contacts (fingerprint)
    select contact_fingerprint(address)
    from email_addresses
    where prospect_id in (select id from them)
    union
    select contact_fingerprint(n.number)
    from phones n
    where n.prospect_id in (select id from them)
      and not exists (select from phones o where o.number = n.number and o.prospect_id not in (select id from them))
    on conflict do nothing
  `,
  sql`delete from event_texts where prospect_id in (select id from them)`,
  sql`
    update bulk_people
    set changes = null
    where prospect_id in (select id from them) and changes is not null
  `,
  sql`delete from notes where prospect_id in (select id from them)`,
  sql`
    delete from incoming_email
    where message_ids && array(select m.id from email_messages m where m.prospect_id in (select id from them))
  `,
  sql`
    update replies
    set subject = '', body = '', header_id = null
    where prospect_id in (select id from them)
  `,
  sql`
    update text_messages
    set body = '', number = '', phone_id = null, error = null
    where prospect_id in (select id from them)
  `,
  sql`
    update email_messages
    set subject = null, body = null, html = null, attachments = '{}', clicked_url = null, last_error = null
    where prospect_id in (select id from them)
  `,
  sql`
    update email_addresses
    set address = 'erased-' || id || '@erased.invalid', status = 'bounced'
    where prospect_id in (select id from them)
  `,
  sql`
    delete from call_recordings
    where call_id in (select id from calls where prospect_id in (select id from them))
  `,
  sql`
    update incoming_calls c
    set number = ''
    where c.number in (select n.number from phones n where n.prospect_id in (select id from them))
      and not exists (
        select from phones o
        where o.number = c.number and o.prospect_id not in (select id from them)
      )
  `,
  sql`
    delete from call_results
    where prospect_id in (select id from them)
      or content ->> 'id' in (select x.id::text from call_export_people x where x.prospect_id in (select id from them))
      or content ->> 'number' in (select n.number from phones n where n.prospect_id in (select id from them))
  `,
  sql`
    update call_export_people
    set number = ''
    where prospect_id in (select id from them)
  `,
  sql`delete from phones where prospect_id in (select id from them)`,
  // What to-dos say was written for them where it is said to nobody else.
  sql`
    update task_contents n
    set subject = '', body = '', html = null, attachments = '{}'
    where n.id in (select content_id from tasks where prospect_id in (select id from them))
      and not exists (
        select from tasks k
        where k.content_id = n.id and k.prospect_id not in (select id from them)
      )
  `,
  sql`update tasks set title = 'Erased' where prospect_id in (select id from them)`,
  sql`
    update meetings
    set title = 'Erased'
    where prospect_id in (select id from them)
  `,
  sql`
    update deals d
    set name = 'Erased'
    from prospects p
    where p.id = d.prospect_id
      and p.id in (select id from them)
      and d.name = btrim(p.first_name || ' ' || p.last_name)
  `,
  sql`
    update touches
    set reason = null
    where prospect_id in (select id from them) and reason is not null
  `,
  sql`
    update form_submissions
    set answers = '[]'
    where prospect_id in (select id from them)
  `,
  sql`delete from prospect_tags where prospect_id in (select id from them)`,
  sql`delete from list_members where prospect_id in (select id from them)`,
  sql`
    delete from not_duplicates
    where one_id in (select id from them) or other_id in (select id from them)
  `,
  sql`delete from import_rows where new_id in (select id from them)`,
  sql`
    update prospects
    set
      first_name = '', last_name = 'Erased', name_key = 'erased', title = null, company_id = null, city = null,
      region = null, postal_code = null, custom = '{}', stop_call = true, stop_email = true,
      erased_at = world_now(), version = version + 1
    where id in (select id from them)
  `,
]

async function wipe(client: Db, prospectId: Id): Promise<void> {
  for (const statement of ERASE) await client.query(`${THEM} ${statement}`, [prospectId])
}

/**
 * Erases a person on request: cadences end and what waits for them is taken back, and everything that says who they are
 * or what was said is deleted. What happened stays in the log by ids, values and codes, so that the team's numbers stay
 * true. Their addresses and numbers are remembered as fingerprints, so that they are not contacted when a file brings
 * them in again. It cannot be undone, so that the name has to be given; throws at it where it is another.
 */
export async function erasePerson(
  viewer: Viewer,
  prospectId: Id,
  { id: eventId, name }: { id: Id; name: string },
): Promise<void> {
  await mustSee(viewer, prospectId)
  const person = await firstRow(
    db().query<{ name: string }>(
      sql`
        select btrim(first_name || ' ' || last_name) as name
        from prospects
        where id = $1
      `,
      [prospectId],
    ),
  )
  if (nameKey(name) !== nameKey(person!.name)) {
    throw new Refusal('invalid', 'Enter their name exactly', [{ field: 'name', message: 'Enter their name exactly' }])
  }
  await recordEvents(
    [
      {
        id: eventId,
        kind: 'prospectStatusSet',
        prospectId,
        actorId: viewer.id,
        causedByEventId: null,
        to: 'archived',
        reason: 'Erased on request',
      },
    ],
    {
      alsoWrite: async (client) => {
        await wipe(client, prospectId)
        await logEvent(client, { kind: 'erased', prospectId, actorId: viewer.id, causedByEventId: eventId })
      },
    },
  )
}
