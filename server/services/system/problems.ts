import { manages } from '#core/roles'
import type { Id } from '#core/instant'
import type { SetAside } from '#shared/api/problems'
import { newId } from '#shared/newId'
import { db, transaction } from '../../db/pool'
import { recordEvents } from '../../engine/recordEvents'
import { mustSee, visible, limitedTo } from '../access/access'
import { byHand } from '../cadences/enrollments'
import { notFound, Refusal } from '../access/errors'
import { readHealth } from './health'
import type { Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

/** How many of each are listed. */
const LISTED = 200

const JOBS: Record<string, string> = {
  runImport: 'Import',
  runBulk: 'Bulk action',
  indexFields: 'Index of a custom field',
  rescore: 'Scoring everyone',
  sendSystemEmail: 'Test email or invitation',
  sendText: 'Text message',
}

const SET_ASIDE_SQL = sql`
  select
    a.ref_id::text as id, a.kind,
    case a.kind
      when 'email' then 'Email: ' || coalesce(nullif(m.subject, ''), s.name, 'without a subject')
      when 'action' then 'Scheduled by “' || coalesce(o.name, 'an outcome') || '”'
      else 'Step of “' || coalesce(c.name, 'a cadence') || '”'
    end as what, json_build_object('id', p.id, 'name', btrim(p.first_name || ' ' || p.last_name)) as person,
    coalesce(a.last_error, '') as error, ms(a.set_aside_at) as at
  from scheduled_actions a
    join prospects p on p.id = a.prospect_id
    left join email_messages m on m.id = a.ref_id
    left join cadence_steps s on s.id = m.step_id
    left join enrollments e on e.id = a.ref_id
    left join cadences c on c.id = e.cadence_id
    left join delayed_actions d on d.id = a.ref_id
    left join outcomes o on o.id = d.outcome_id
  where a.set_aside_at is not null
  union all
  select
    i.id::text, 'incoming', 'Incoming email',
    (
      select json_build_object('id', p.id, 'name', btrim(p.first_name || ' ' || p.last_name))
      from email_messages m
        join prospects p on p.id = m.prospect_id
      where m.id = i.message_ids[1]
    ), coalesce(i.last_error, ''), ms(i.set_aside_at)
  from incoming_email i
  where i.set_aside_at is not null
  union all
  select
    j.id::text, 'job', j.task_identifier || coalesce(': ' || f.file_name, ''), null, coalesce(j.last_error, ''),
    ms(j.updated_at)
  from graphile_worker.jobs j
    left join imports f on j.key = 'import ' || f.id::text
  where j.attempts >= j.max_attempts and j.locked_at is null
  order by 6 desc
  limit $1
`

interface EmailProblem {
  messageId: Id
  subject: string
  person: { id: Id; name: string }
  sender: string | null
  at: number
  error: string
  status: 'unconfirmed' | 'held' | 'failed'
}

// Emails that wait for someone are found by the task about them.
const EMAILS_SQL = sql`
  select
    m.id as "messageId", coalesce(nullif(m.subject, ''), s.subject, '') as subject, m.status,
    json_build_object('id', p.id, 'name', btrim(p.first_name || ' ' || p.last_name)) as person, u.name as sender,
    ms(t.due_at) as at, coalesce(m.last_error, '') as error
  from tasks t
    join email_messages m on m.id = t.message_id
    join prospects p on p.id = m.prospect_id
    left join cadence_steps s on s.id = m.step_id
    left join users u on u.id = m.sender_id
  where t.kind = 'check_mail'
    and t.status = 'open'
    and m.status in ('unconfirmed', 'held', 'failed')
    and (${visible('p', '$1')} or t.owner_id = $1)
  order by t.due_at desc, m.id
`

/**
 * What waits for a person: work set aside, for managers; emails whose delivery is unknown and emails that are blocked,
 * of those whom the viewer sees.
 */
export async function listProblems(viewer: Viewer) {
  const [setAside, emails] = await Promise.all([
    !manages(viewer)
      ? []
      : db()
          .query<SetAside>(SET_ASIDE_SQL, [LISTED])
          .then(({ rows }) => rows),
    db()
      .query<EmailProblem>(EMAILS_SQL, [limitedTo(viewer)])
      .then(({ rows }) => rows),
  ])
  const [unknown, blocked] = [
    emails.filter((row) => row.status === 'unconfirmed'),
    emails.filter((row) => row.status !== 'unconfirmed'),
  ]
  const shown = (rows: EmailProblem[]) => rows.slice(0, LISTED).map(({ status: _, ...row }) => row)
  return {
    setAside: setAside.map((row) =>
      row.kind === 'job'
        ? {
            ...row,
            what: row.what.replace(/^\w+/, (name) => JOBS[name] ?? name),
            error: row.error.split('\n')[0]!.slice(0, 500),
          }
        : row,
    ),
    unknown: shown(unknown),
    unknownCount: unknown.length,
    blocked: shown(blocked),
    blockedCount: blocked.length,
  }
}

/** How much waits for a manager: work set aside, and emails whose delivery is unknown. */
export async function countProblems(): Promise<number> {
  const { setAside, emailsUnknown } = await readHealth()
  return setAside + emailsUnknown
}

type Kind = SetAside['kind']

const uuid = (id: string) => (/^[0-9a-f-]{36}$/i.test(id) ? id : null)
const number = (id: string) => (/^\d{1,15}$/.test(id) ? id : null)

async function runAgain(kind: Kind, id: string): Promise<{ rowCount: number | null }> {
  if (kind === 'job') {
    return db().query(
      sql`
        select
        from graphile_worker.reschedule_jobs(
          array(
            select id from graphile_worker.jobs where id = $1 and attempts >= max_attempts and locked_at is null
          ), run_at => now(), attempts => 0
        )
      `,
      [number(id)],
    )
  }
  if (kind === 'incoming') {
    return db().query(
      sql`
        update incoming_email
        set set_aside_at = null, attempts = 0, retry_at = now()
        where id = $1 and set_aside_at is not null
      `,
      [uuid(id)],
    )
  }
  return db().query(
    sql`
      update scheduled_actions
      set set_aside_at = null, failures = 0, crashes = 0, at = world_now()
      where ref_id = $1 and kind = $2 and set_aside_at is not null
    `,
    [uuid(id), kind],
  )
}

/** Runs again what was set aside: it is due now, with its tries counted from nothing. */
export async function retryProblem({ kind, id }: { kind: Kind; id: string }): Promise<void> {
  const done = await runAgain(kind, id)
  if (!done.rowCount) throw notFound('problem')
}

/**
 * Gives up what was set aside: an email is cancelled and its cadence goes on, a step's cadence ends, a scheduled
 * action is canceled, a job or an incoming email is deleted.
 */
export async function discardProblem(viewer: Viewer, { kind, id }: { kind: Kind; id: string }): Promise<void> {
  if (kind === 'incoming' || kind === 'job') {
    const done =
      kind === 'incoming'
        ? await db().query(sql`delete from incoming_email where id = $1 and set_aside_at is not null`, [uuid(id)])
        : await db().query(
            sql`
              select
              from graphile_worker.complete_jobs(
                array(
                  select id
                  from graphile_worker.jobs
                  where id = $1 and attempts >= max_attempts and locked_at is null
                )
              )
            `,
            [number(id)],
          )
    if (!done.rowCount) throw notFound('problem')
    return
  }
  const row = await firstRow(
    db().query<{ prospect_id: Id }>(
      sql`
        select prospect_id
        from scheduled_actions
        where ref_id = $1 and kind = $2 and set_aside_at is not null
      `,
      [uuid(id), kind],
    ),
  )
  if (!row) throw notFound('problem')
  const about = { id: newId(), prospectId: row.prospect_id, actorId: viewer.id, causedByEventId: null }
  if (kind === 'email') await recordEvents([{ ...about, kind: 'emailStopped', messageId: id, why: 'Given up by hand' }])
  else if (kind === 'action') await recordEvents([{ ...about, kind: 'actionCancelled', delayedActionId: id }])
  else await recordEvents([{ ...about, kind: 'unenrolled', enrollmentId: id }])
  await transaction((client) =>
    client.query(sql`delete from scheduled_actions where ref_id = $1 and set_aside_at is not null`, [id]),
  )
}

/**
 * Says of several emails whether they went out; those that did not are sent again. Each by itself: what is refused is
 * listed with the reason.
 */
export async function settleEmails(
  viewer: Viewer,
  messageIds: readonly Id[],
  wentOut: boolean,
): Promise<{ settled: number; refused: { messageId: Id; reason: string }[] }> {
  const { rows } = await db().query<{ id: Id; prospect_id: Id }>(
    sql`select id, prospect_id from email_messages where id = any($1::uuid[])`,
    [messageIds],
  )
  const refused: { messageId: Id; reason: string }[] = []
  let settled = 0
  for (const { id: messageId, prospect_id: prospectId } of rows) {
    try {
      await mustSee(viewer, prospectId)
      await byHand(viewer, {
        id: newId(),
        kind: 'emailSettled',
        prospectId,
        actorId: viewer.id,
        causedByEventId: null,
        messageId,
        wentOut,
      })
      settled++
    } catch (error) {
      if (!(error instanceof Refusal)) throw error
      refused.push({ messageId, reason: error.message })
    }
  }
  return { settled, refused }
}
