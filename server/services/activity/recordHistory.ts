import { manages } from '#core/roles'
import { causeInWords, describeEffect } from '#core/engine/describeEffect'
import type { Effect } from '#core/engine/state/effects'
import { eventKind } from '#core/events/registry'
import type { Id } from '#core/instant'
import type { RecordEntry } from '#shared/api/events/history'
import { db } from '../../db/pool'
import { currentPlaybook } from '../../engine/playbook'
import { firstRow, sql } from '../../db/sql'
import { limitedTo, mustSee, visible } from '../access/access'
import { notFound } from '../access/errors'
import { readerOf, type Viewer } from '../access/viewer'
import type { Changes } from '../../engine/eventLog'
import { mustSeeCompany } from '../companies/companies'
import { readList } from '../lists/listAccess'
import { changesInWords, namesFor } from './changesInWords'
import { effectsWhere, UNDONE, type LoggedEffect } from './logged'

interface Row {
  id: Id
  at: number
  kind: string
  by: string | null
  actor: Id | null
  changes: Changes | null
  reason: string | null
  person: RecordEntry['person']
  undone: boolean
  effects: LoggedEffect[]
}

/** Events of a company and of those merged into it. */
const OF_COMPANY = sql`
  with recursive them as (
    select $1::uuid as id
    union
    select m.duplicate_id
    from company_merges m
      join them on m.primary_id = them.id
    where m.undone_at is null
  ),
  theirs as (
    select h.id
    from events h
      join them on them.id = h.company_id
    union
    select e.event_id
    from effects e
      join them on them.id = e.entity_id
    where e.entity = 'company'
  )
`
const OF_DEAL = sql`
  with them as (
    select $1::uuid as id
  ),
  theirs as (
    select id
    from events
    where deal_id = $1
    union
    select event_id
    from effects
    where entity = 'deal' and entity_id = $1
  )
`
const OF_LIST = sql`
  with them as (
    select $1::uuid as id
  ),
  theirs as (
    select id
    from events
    where list_id = $1
  )
`

/** What was changed of a form; who sent it is among its submissions. */
const OF_FORM = sql`
  with them as (
    select $1::uuid as id
  ),
  theirs as (
    select id
    from events
    where form_id = $1 and prospect_id is null
  )
`

/** How what happened to a kind of record is found: its events as `theirs`, and the entity that effects change. */
interface Recorded {
  scope: 'company' | 'deal' | 'list' | 'form'
  of: string
}

async function historyOf(viewer: Viewer, { scope, of }: Recorded, id: Id, limit: number): Promise<RecordEntry[]> {
  const book = await currentPlaybook(db())
  const clock = await firstRow(db().query<{ now: number }>(sql`select ms(world_now()) as now`))
  const { rows } = await db().query<Row>(
    sql`
      ${of}
      select
        h.id, ms(h.at) as at, h.kind, u.name as by, h.actor_id as actor, x.texts -> 'changes' as changes,
        x.texts ->> 'reason' as reason,
        (
          select json_build_object('id', p.id, 'name', btrim(p.first_name || ' ' || p.last_name))
          from prospects p
          where p.id = h.prospect_id and ${visible('p', '$3')}
        ) as person,
        ${UNDONE} as undone,
        ${effectsWhere(`e.entity = '${scope}' and e.entity_id in (select id from them)`)} as effects
      from theirs
        join events h on h.id = theirs.id
        left join users u on u.id = h.actor_id
        left join event_texts x on x.event_id = h.id and (h.prospect_id is null or h.deal_id is not null)
      order by h.position desc
      limit $2
    `,
    [id, limit, limitedTo(viewer)],
  )
  const names = await namesFor(rows.map((row) => row.changes ?? {}))
  const reader = readerOf(viewer, clock!.now)
  return rows.map((row) => {
    const kind = eventKind(row.kind)
    const effects = row.effects.map((effect) => {
      const done = describeEffect(effect as Effect, book, reader)
      return effect.cause.source === 'person' ? done : `${done} · ${causeInWords(effect.cause, book)}`
    })
    const what = changesInWords(row.changes, names, { isNew: row.kind === 'listAdded' })
    return {
      id: row.id,
      at: row.at,
      title: kind?.title ?? row.kind,
      by: row.by,
      body: [what ?? effects.join('\n'), row.reason && `Reason: ${row.reason}`].filter(Boolean).join('\n') || null,
      person: row.person,
      undone: row.undone,
      // It is undone by way of the prospect.
      canUndo:
        kind?.scope === scope &&
        kind.undoable &&
        row.person !== null &&
        !row.undone &&
        (row.actor === viewer.id || manages(viewer)),
    }
  })
}

/** What was changed of a company and of those merged into it, newest first; by calls and emails with people, too. */
export async function companyHistory(viewer: Viewer, companyId: Id, limit: number): Promise<RecordEntry[]> {
  await mustSeeCompany(viewer, companyId)
  return historyOf(viewer, { scope: 'company', of: OF_COMPANY }, companyId, limit)
}

/** What was changed of a deal, newest first; by outcomes, too. */
export async function dealHistory(viewer: Viewer, dealId: Id, limit: number): Promise<RecordEntry[]> {
  const deal = await firstRow(
    db().query<{ prospectId: Id }>(sql`select prospect_id as "prospectId" from deals where id = $1`, [dealId]),
  )
  if (!deal) throw notFound('deal')
  await mustSee(viewer, deal.prospectId)
  return historyOf(viewer, { scope: 'deal', of: OF_DEAL }, dealId, limit)
}

/** What was changed of a list itself, newest first. */
export async function listHistory(viewer: Viewer, listId: Id, limit: number): Promise<RecordEntry[]> {
  await readList(viewer, listId)
  return historyOf(viewer, { scope: 'list', of: OF_LIST }, listId, limit)
}

/** What was changed of a form, newest first. */
export async function formHistory(viewer: Viewer, formId: Id, limit: number): Promise<RecordEntry[]> {
  const form = await firstRow(db().query(sql`select from forms where id = $1`, [formId]))
  if (!form) throw notFound('form')
  return historyOf(viewer, { scope: 'form', of: OF_FORM }, formId, limit)
}
