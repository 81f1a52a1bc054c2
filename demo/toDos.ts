import { randomUUID } from 'node:crypto'
import { db } from '../server/db/pool'
import { sql } from '../server/db/sql'
import type { Viewer } from '../server/services/access/viewer'
import { startBulk } from '../server/services/bulk/bulk'
import { runBulk } from '../server/services/bulk/runBulk'
import { brief } from '../server/services/desk/brief'
import { writeEmail } from '../server/services/email/messages'

const HOUR = 3_600_000
const EMAIL = {
  subject: 'A checklist for your next audit',
  body: `Hello {{ first_name }},

before an audit, most teams go through the same nine points about their rooms. We wrote them down on one page.
Would it help if I sent it to you at {{ company | default: "your company" }}?

{{ sender_name }}`,
  html: null,
  attachments: [],
}

/**
 * Emails that a manager has planned for the owners of some people, due in the afternoon: each owner finds them on the
 * Desk, and has sent the first ones.
 */
export async function addToDos(manager: Viewer, owners: readonly Viewer[], start: number): Promise<void> {
  const { rows } = await db().query<{ id: string; owner_id: string }>(
    sql`
      select p.id, p.owner_id
      from prospects p
        join stages s on s.id = p.stage_id and s.kind = 'open'
        join companies c on c.id = p.company_id and c.status = 'open'
      where p.owner_id = any($1::uuid[])
        and not exists (select from tasks t where t.prospect_id = p.id and t.status = 'open' and t.due_at < $2)
      order by md5(p.name_key || 'to-do')
      limit 14
    `,
    [owners.map(({ id }) => id), new Date(start + 24 * HOUR)],
  )
  const id = randomUUID()
  const action = { type: 'plan' as const, task: 'email' as const, title: EMAIL.subject, ...EMAIL, ownerId: null }
  const prospectIds = rows.map((row) => row.id)
  await startBulk(manager, { id, action: { ...action, dueAt: start + 5 * HOUR }, prospectIds })
  await runBulk(id)
  const { rows: planned } = await db().query<{ id: string; prospect_id: string; owner_id: string }>(
    sql`
      select id, prospect_id, owner_id
      from tasks
      where content_id = $1
      order by prospect_id
    `,
    [id],
  )
  for (const task of planned.slice(0, 5)) {
    const owner = owners.find((one) => one.id === task.owner_id)!
    const { message } = await brief(owner, task.prospect_id, task.id)
    const { subject, body, html, attachments } = message!
    const email = { id: randomUUID(), taskId: task.id, inReplyTo: null, subject, body, html, attachments }
    await writeEmail(owner, task.prospect_id, email)
  }
}

/** Work of other kinds that waits on the Desks of reps in the morning: something to look up, and a text to send. */
export async function addOtherToDos(manager: Viewer, owners: readonly Viewer[], start: number): Promise<void> {
  const WORK = [
    { task: 'task', title: 'Look up who runs their new cold store', body: 'Their site lists a second address.' },
    {
      task: 'text',
      title: 'Confirm the visit by text',
      body: 'Hi {{ first_name }}, does Thursday at 2 still suit you?',
    },
  ] as const
  for (const [place, { body, ...plan }] of WORK.entries()) {
    const { rows } = await db().query<{ id: string }>(
      sql`
        select distinct on (p.owner_id) p.id
        from prospects p
          join stages s on s.id = p.stage_id and s.kind = 'open'
          join companies c on c.id = p.company_id and c.status = 'open'
        where p.owner_id = any($1::uuid[])
          and p.region = 'NY'
          and not p.stop_call
          and exists (select from phones n where n.prospect_id = p.id and n.kind = 'mobile')
          and not exists (select from tasks t where t.prospect_id = p.id and t.status = 'open' and t.due_at < $2)
          and not exists (select from enrollments e where e.prospect_id = p.id and e.status <> 'ended')
        order by p.owner_id, md5(p.name_key || 'other to-do')
      `,
      [owners.map(({ id }) => id), new Date(start + 24 * HOUR)],
    )
    const id = randomUUID()
    const content = { subject: '', body, html: null, attachments: [] }
    const action = {
      type: 'plan' as const,
      ...plan,
      ...content,
      dueAt: start - HOUR + place * 1_800_000,
      ownerId: null,
    }
    await startBulk(manager, { id, action, prospectIds: rows.map((row) => row.id) })
    await runBulk(id)
  }
}

/** Calls that a manager has planned for the caller, with people of one rep: what to say stands with each. */
export async function addCalls(manager: Viewer, caller: Viewer, rep: Viewer, start: number): Promise<void> {
  const { rows } = await db().query<{ id: string }>(
    sql`
      select p.id
      from prospects p
        join stages s on s.id = p.stage_id and s.kind = 'open'
        join companies c on c.id = p.company_id and c.status = 'open'
      where p.owner_id = $1 and not p.stop_call and exists (select from phones n where n.prospect_id = p.id)
      order by md5(p.name_key || 'call')
      limit 4
    `,
    [rep.id],
  )
  const id = randomUUID()
  const body = 'Hello {{ first_name }}, is {{ company }} still the right place to send our logger catalog?'
  const content = { subject: '', body, html: null, attachments: [] }
  const action = { type: 'plan' as const, task: 'call' as const, title: 'Confirm where the catalog goes', ...content }
  const prospectIds = rows.map((row) => row.id)
  await startBulk(manager, { id, action: { ...action, dueAt: start - HOUR, ownerId: caller.id }, prospectIds })
  await runBulk(id)
}
