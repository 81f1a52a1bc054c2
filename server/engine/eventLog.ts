import { EVENTS, type EventKindName } from '#core/events/registry'
import type { Cause, Effect } from '#core/engine/state/effects'
import type { EngineState } from '#core/engine/state/engineState'
import type { Id } from '#core/instant'
import { newId } from '#shared/newId'
import type { Db } from '../db/pool'
import { sayProspectsChanged } from '../db/userChanges'
import { sql } from '../db/sql'
import type { Applied } from './applied'
import { recordset, type ArrayParameter } from './columns'
import { divide, loggedCause, loggedRow, prospectOf } from './logged'

/*
 * The one place that writes the event log. What the log holds of an event is checked against its kind (core/events):
 * ids, values and codes. What people wrote stands beside it, in event_texts, so that it can be erased.
 */

/**
 * Values by field, as they were and as they are, beside the log. Fields are columns, ids of custom fields, words of
 * what a list has; of bulk actions also "tag", "list" and "tasks" (whose open tasks are).
 */
export type Changes = Record<string, [was: unknown, is: unknown]>

/** What the log holds of an event; throws where it is not what its kind says. */
function checked(kind: EventKindName, payload: unknown): string {
  const read = EVENTS[kind].payload.safeParse(payload)
  if (!read.success) throw new Error(`The log cannot hold this of ${kind}: ${read.error.message}`)
  return JSON.stringify(read.data)
}

/** What stands beside the log: what was written with the event, and what its effects say in words; null for nothing. */
function withReasons(texts: Record<string, string> | null, effects: readonly Effect[]): string | null {
  const said = [...new Set(effects.flatMap(({ cause }) => cause.said ?? []))]
  return texts || said.length ? JSON.stringify({ ...texts, ...(said.length && { said: said.join('. ') }) }) : null
}

const EVENT_COLUMNS = {
  id: 'uuid',
  at: 'bigint',
  kind: 'text',
  prospect: 'uuid',
  company: 'uuid',
  deal: 'uuid',
  form: 'uuid',
  actor: 'uuid',
  cause: 'uuid',
  payload: 'jsonb',
}

/** What a set of reactions came to, as statements: events, texts and effects. `after` is the state at the end. */
export function eventStatements(applied: readonly Applied[], after: EngineState, array: ArrayParameter): string[] {
  const events = applied.map(({ event, effects }) => {
    const { id, at, kind, prospectId, actorId, causedByEventId, ...content } = event
    const { logged, texts } = divide(kind, content)
    return {
      id,
      at,
      kind,
      prospect: prospectId,
      company: EVENTS[kind].scope === 'company' ? (after.prospect[prospectId]?.companyId ?? null) : null,
      deal: EVENTS[kind].scope === 'deal' ? (logged.dealId ?? null) : null,
      form: EVENTS[kind].scope === 'form' ? (logged.formId ?? null) : null,
      actor: actorId,
      cause: causedByEventId,
      payload: checked(kind, logged),
      texts: withReasons(texts, effects),
    }
  })
  const effects = applied.flatMap(({ event, effects }) =>
    effects.map((effect, seq) => {
      const prospect = prospectOf(effect, after)
      return {
        event: event.id,
        seq,
        kind: effect.kind,
        entity: effect.entity,
        ref: effect.id,
        prospect,
        before: loggedRow(effect.entity, effect.before),
        after: loggedRow(effect.entity, effect.after),
        cause: loggedCause(effect.cause),
      }
    }),
  )
  const parts = [
    sql`
      insert into events (
        id, at, kind, prospect_id, company_id, deal_id, form_id, actor_id, caused_by_event_id, payload
      )
      select r.id, from_ms(r.at), r.kind, r.prospect, r.company, r.deal, r.form, r.actor, r.cause, r.payload
      from ${recordset(events, EVENT_COLUMNS, array)}
    `,
  ]
  const written = events.filter((event) => event.texts)
  if (written.length) {
    parts.push(sql`
      insert into event_texts (event_id, prospect_id, texts)
      select r.*
      from ${recordset(written, { id: 'uuid', prospect: 'uuid', texts: 'jsonb' }, array)}
    `)
  }
  if (effects.length) {
    parts.push(sql`
      insert into effects (event_id, seq, kind, entity, entity_id, prospect_id, before, after, cause)
      select r.*
      from ${recordset(effects, { event: 'uuid', seq: 'int', kind: 'text', entity: 'text', ref: 'uuid', prospect: 'uuid', before: 'jsonb', after: 'jsonb', cause: 'jsonb' }, array)}
    `)
  }
  return parts
}

/** An event that nothing follows from: an edit of a record. It happens now. */
export interface RecordEvent {
  /** Its own, where the caller has one. */
  id?: Id
  kind: EventKindName
  /** Null for one that happens to a company, list or form, and nobody in particular. */
  prospectId: Id | null
  companyId?: Id
  dealId?: Id
  listId?: Id
  formId?: Id
  actorId: Id | null
  causedByEventId?: Id | null
  payload?: object
}

/** Logs that something happened; gives the event's id. */
export async function logEvent(client: Db, event: RecordEvent): Promise<Id> {
  const id = event.id ?? newId()
  await client.query(
    sql`
      insert into events (
        id, at, kind, prospect_id, company_id, deal_id, list_id, form_id, actor_id, caused_by_event_id, payload
      )
      values ($1, world_now(), $2, $3, $4, $5, $6, $7, $8, $9, $10)
    `,
    [
      id,
      event.kind,
      event.prospectId,
      event.companyId ?? null,
      event.dealId ?? null,
      event.listId ?? null,
      event.formId ?? null,
      event.actorId,
      event.causedByEventId ?? null,
      checked(event.kind, event.payload ?? {}),
    ],
  )
  if (event.prospectId) sayProspectsChanged(client, [event.prospectId])
  return id
}

/** Logs that the same happened to many prospects. */
export async function logForEach(
  client: Db,
  prospectIds: readonly Id[],
  { kind, actorId, payload = {} }: Pick<RecordEvent, 'kind' | 'actorId' | 'payload'>,
): Promise<void> {
  if (!prospectIds.length) return
  await client.query(
    logFrom(kind, { prospect: 'who', actor: '$2::uuid', payload: '$3::jsonb', from: 'unnest($1::uuid[]) who' }),
    [prospectIds, actorId, checked(kind, payload)],
  )
}

/** An event for every row of a set, as SQL expressions over `from`; the payload is a jsonb of what its kind says. */
export interface LoggedSet {
  /** To whom it happens: the prospect, or the company. */
  prospect?: string
  company?: string
  actor: string
  payload: string
  from: string
  /** Its own id, where the set has one. */
  id?: string
}

/** The statement that logs an event of a kind for every row of a set; it gives `id` and `prospect_id` back. */
export function logFrom(
  kind: EventKindName,
  { id = 'new_id()', prospect = 'null::uuid', company = 'null::uuid', actor, payload, from }: LoggedSet,
) {
  return sql`
    insert into events (id, at, kind, prospect_id, company_id, actor_id, payload)
    select ${id}, (select world_now()), '${kind}', ${prospect}, ${company}, ${actor}, ${payload}
    from ${from}
    returning id, prospect_id
  `
}

/** Puts what people wrote, or what was before, beside an event. */
export async function logTexts(client: Db, eventId: Id, prospectId: Id | null, texts: object): Promise<void> {
  await client.query(sql`insert into event_texts (event_id, prospect_id, texts) values ($1, $2, $3)`, [
    eventId,
    prospectId,
    JSON.stringify(texts),
  ])
}

/** The statement that puts texts beside the events of a set: SQL expressions over `from`. */
export function textsFrom({ event, prospect, texts, from }: Record<'event' | 'prospect' | 'texts' | 'from', string>) {
  return sql`
    insert into event_texts (event_id, prospect_id, texts)
    select ${event}, ${prospect}, ${texts}
    from ${from}
  `
}

/** Columns of a company that nobody edits: they follow from others. */
const DERIVED_OF_COMPANY = ['version', 'name_key', 'place_id']

/** An update of companies, as SQL: `c` is the company, `actor` who does it, `importId` the file it comes from. */
interface CompanyUpdate {
  set: string
  from: string
  where: string
  actor: string
  importId: string
}

/**
 * The statement that updates companies and logs, for each that it changes, which fields, with what was and is beside
 * the log. It gives `count`: how many were updated.
 */
export function loggedCompanyUpdate({ set, from, where, actor, importId }: CompanyUpdate): string {
  return sql`
    with updated as (
      update companies c
      set ${set}, version = c.version + 1
      from companies was, ${from}
      where was.id = c.id and (${where})
      returning c.id, to_jsonb(was) - 'custom' || was.custom as was, to_jsonb(c) - 'custom' || c.custom as "is"
    ),
    changed as materialized (
      select new_id() as event_id, u.id, d.changes, d.fields
      from updated u
        cross join lateral (
          select
            jsonb_object_agg(f.key, jsonb_build_array(u.was -> f.key, f.value)) as changes,
            jsonb_agg(f.key) as fields
          from jsonb_each(u."is") f
          where u.was -> f.key is distinct from f.value
            and f.key <> all('{${DERIVED_OF_COMPANY.join(',')}}'::text[])
        ) d
      where d.changes is not null
    ),
    logged as (
      ${logFrom('companyEdited', {
        id: 'event_id',
        company: 'id',
        actor,
        payload: `jsonb_strip_nulls(jsonb_build_object('fields', fields, 'importId', ${importId}))`,
        from: 'changed',
      })}
    ),
    described as (
      ${textsFrom({ event: 'event_id', prospect: 'null::uuid', texts: `jsonb_build_object('changes', changes)`, from: 'changed' })}
    )
    select count(*) as count
    from updated
  `
}

const byPerson: Cause = { source: 'person' }

/** Logs a change of a company where nobody is, with which it can be undone like any other. */
export async function logCompanyStatus(
  client: Db,
  {
    eventId,
    companyId,
    actorId,
    before,
    after,
  }: Record<'eventId' | 'companyId' | 'actorId' | 'before' | 'after', string>,
): Promise<void> {
  await logEvent(client, {
    id: eventId,
    kind: 'companyStatusSet',
    prospectId: null,
    companyId,
    actorId,
    payload: { to: after },
  })
  await client.query(
    sql`
      insert into effects (event_id, seq, kind, entity, entity_id, before, after, cause)
      values ($1, 0, 'setCompanyStatus', 'company', $2, $3, $4, $5)
    `,
    [
      eventId,
      companyId,
      JSON.stringify({ status: before }),
      JSON.stringify({ status: after }),
      JSON.stringify(byPerson),
    ],
  )
}
