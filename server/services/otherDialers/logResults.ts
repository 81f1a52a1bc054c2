import { v5 as derivedId } from 'uuid'
import { readResult, type ResultContent, type ResultField, type RowFault } from '#core/dialing/resultRow'
import type { CallResultStatus } from '#core/enumerations'
import type { Id, Instant } from '#core/instant'
import { parsePhone } from '#core/text/phone'
import { db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { AlreadyRecorded } from '../../engine/recordEvents'
import { Refusal } from '../access/errors'
import { viewerOf } from '../access/sessions'
import { readCandidates } from '../blocks/people'
import type { Viewer } from '../access/viewer'
import { isInBlock } from '../blocks/work'
import { logOutcome, type LogRequest } from '../desk/outcomes'

/** The namespace of the ids of events that are made of results, so that one that comes twice is one. */
const RESULTS = '8b1f6c57-6f5e-4a63-9a0c-2f0f0f6f2d10'
/** How many are logged before it is looked whether more have come. */
const BATCH = 100

interface ResultRow {
  id: Id
  exportId: Id
  blockId: Id
  dialer: string
  content: ResultContent
  receivedBy: Id
  timeZone: string
  country: string
  now: Instant
}

const ROW_SQL = sql`
  select
    r.id, r.export_id as "exportId", x.block_id as "blockId", x.dialer, r.content, r.received_by as "receivedBy",
    t.time_zone as "timeZone", t.country, ms(world_now()) as now
  from call_results r
    join call_exports x on x.id = r.export_id
    cross join team t
  where r.status = 'waiting'
`

/** Logs what waits of an export, in the order in which it came. A row that cannot be logged is kept with the reason. */
export async function logResults(exportId: Id): Promise<void> {
  for (;;) {
    const { rows } = await db().query<ResultRow>(
      sql`
        ${ROW_SQL} and r.export_id = $1
        order by r.received_at, r.row_number
        limit ${BATCH}
      `,
      [exportId],
    )
    if (!rows.length) return
    for (const row of rows) await logRow(row)
  }
}

/** Logs one result that waits. */
export async function logResult(id: Id): Promise<void> {
  const row = await firstRow(db().query<ResultRow>(sql`${ROW_SQL} and r.id = $1`, [id]))
  if (row) await logRow(row)
}

/** Why a row cannot be logged, at its field. */
class Unreadable extends Error {
  constructor(readonly fault: RowFault) {
    super(fault.message)
  }
}
const unreadable = (field: ResultField, message: string) => new Unreadable({ field, message })

interface Person {
  /** Our id of them in the export. */
  id: Id
  /** They, or whom they were merged into. */
  prospectId: Id
  phoneId: Id | null
}

/** Whom a row is about: by our id, else by the number, among those of the export. */
async function personOf({ exportId, content, country }: ResultRow): Promise<Person> {
  const number = content.number ? (parsePhone(content.number, country)?.number ?? null) : null
  const { rows } = await db().query<Person & { byId: boolean }>(
    sql`
      with recursive found as (
        select x.id, x.prospect_id, x.phone_id, x.id::text = lower($2) as by_id
        from call_export_people x
        where x.export_id = $1 and (x.id::text = lower($2) or x.number = $3)
      ),
      merged as (
        select f.id, p.id as prospect_id, p.merged_into
        from found f
          join prospects p on p.id = f.prospect_id
        union
        select m.id, p.id, p.merged_into
        from merged m
          join prospects p on p.id = m.merged_into
      )
      select f.id, m.prospect_id as "prospectId", n.id as "phoneId", f.by_id as "byId"
      from found f
        join merged m on m.id = f.id and m.merged_into is null
        left join phones n on n.id = f.phone_id and n.prospect_id = m.prospect_id
      order by f.by_id desc
      limit 2
    `,
    [exportId, content.id, number],
  )
  const [first, second] = rows
  if (!first && content.number && !number) throw unreadable('number', 'This is no phone number')
  if (!first) throw unreadable(content.number ? 'number' : 'id', 'Nobody with this was handed over')
  if (second && !first.byId) throw unreadable('id', 'Several people have this number: give our id')
  return first
}

interface OutcomeRow {
  id: Id
  name: string
  needsTime: boolean
  /** What it asks for that no result can say. */
  needsMore: boolean
}

/** The outcome a row names: what the dialer was said to mean by it, else one of that name. */
async function outcomeOf({ dialer, content }: ResultRow): Promise<OutcomeRow> {
  const row = await firstRow(
    db().query<OutcomeRow>(
      sql`
        select
          o.id, o.name, 'callBackAt' = any(o.required_inputs) as "needsTime",
          o.required_inputs && array['meeting', 'referral'] as "needsMore"
        from outcomes o
          left join dialer_outcomes d on d.outcome_id = o.id and d.dialer = lower($1) and d.word = lower($2)
        where o.archived_at is null and (d.word is not null or lower(o.name) = lower($2))
        order by d.word is null, o.position
        limit 1
      `,
      [dialer, content.outcome],
    ),
  )
  if (!row) throw unreadable('outcome', `“${content.outcome}” is none of your outcomes`)
  if (row.needsMore) {
    throw unreadable('outcome', `“${row.name}” asks for more than a result says: log it on the prospect's page`)
  }
  return row
}

/** Who called: a user by their email address, else the user who brought the result in, with the name in the note. */
async function callerOf({ content, receivedBy }: ResultRow): Promise<{ userId: Id; isKnown: boolean }> {
  const user = content.caller
    ? await firstRow(
        db().query<{ id: Id }>(sql`select id from users where lower(email) = lower($1) and active`, [content.caller]),
      )
    : undefined
  return { userId: user?.id ?? receivedBy, isKnown: user !== undefined || !content.caller }
}

/** The fields of a row in which what the engine asks for stands. */
const FIELD_OF: Readonly<Record<string, ResultField>> = {
  callBackAt: 'callBackAt',
  reason: 'reason',
  note: 'note',
  phone: 'number',
}

async function logRow(row: ResultRow): Promise<void> {
  try {
    await takeRow(row)
  } catch (error) {
    await keep(row.id, error)
  }
}

/** Logs what a row says, as if it were logged here; throws Unreadable or Refusal where it cannot be. */
async function takeRow(row: ResultRow): Promise<void> {
  const { content, blockId } = row
  const times = readResult(content, row.timeZone, row.now)
  if ('field' in times) throw new Unreadable(times)
  const { calledAt, callBackAt } = times
  const person = await personOf(row)
  const outcome = await outcomeOf(row)
  if (outcome.needsTime && callBackAt === null) {
    throw unreadable('callBackAt', `“${outcome.name}” asks when to call back`)
  }
  const { userId, isKnown } = await callerOf(row)
  const viewer = await viewerOf(userId)
  if (!viewer) throw unreadable('caller', 'Who brought this in is no longer on the team')
  const note = [content.note, isKnown ? '' : `Called by ${content.caller}`].filter(Boolean).join('\n')
  const eventId = derivedId([person.id, calledAt ?? '', outcome.id].join(' '), RESULTS)
  const [candidate] = await readCandidates(db(), [person.prospectId], blockId)
  const isNew = await isLogged(viewer, person.prospectId, {
    id: eventId,
    outcomeId: outcome.id,
    taskId: candidate?.taskId ?? null,
    phoneId: person.phoneId,
    // Who was taken out of the block, or was merged, has their call all the same.
    ...((await isInBlock(blockId, person.prospectId)) && { blockId }),
    call: 'elsewhere',
    fromDialer: { calledAt, exportId: isKnown ? null : row.exportId },
    details: {
      ...(note && { note }),
      ...(content.reason && { reason: content.reason }),
      ...(callBackAt !== null && { callBackAt }),
    },
    fingerprint: null,
  })
  await finish(row.id, isNew ? 'logged' : 'known', person.prospectId, eventId)
  await db().query(sql`update call_export_people set result_at = coalesce(result_at, world_now()) where id = $1`, [
    person.id,
  ])
}

/** Logs a call; gives false where it was logged before. */
async function isLogged(viewer: Viewer, prospectId: Id, call: LogRequest): Promise<boolean> {
  try {
    await logOutcome(viewer, prospectId, call)
    return true
  } catch (error) {
    if (error instanceof AlreadyRecorded) return false
    throw error
  }
}

/** Notes that a row was logged; what it said is in the activity now, and not kept twice. */
async function finish(id: Id, status: CallResultStatus, prospectId: Id, eventId: Id): Promise<void> {
  await db().query(
    sql`
      update call_results
      set status = $2, prospect_id = $3, event_id = $4, content = '{}'
      where id = $1
    `,
    [id, status, prospectId, eventId],
  )
}

/** Keeps a row that cannot be logged, with the reason; throws what is no fault of the row. */
async function keep(id: Id, error: unknown): Promise<void> {
  const fault = faultOf(error)
  if (!fault) throw error
  await db().query(sql`update call_results set status = 'unreadable', error_field = $2, error = $3 where id = $1`, [
    id,
    fault.field,
    fault.message,
  ])
}

function faultOf(error: unknown): RowFault | null {
  if (error instanceof Unreadable) return error.fault
  if (!(error instanceof Refusal)) return null
  const field = error.problems[0]?.field ?? ''
  return { field: FIELD_OF[field] ?? 'outcome', message: error.message }
}
