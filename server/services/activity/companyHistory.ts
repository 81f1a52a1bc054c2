import { manages } from '#core/roles'
import { causeInWords, describeEffect } from '#core/engine/describeEffect'
import type { Effect } from '#core/engine/state/effects'
import { eventKind } from '#core/events/registry'
import type { Id } from '#core/instant'
import type { CompanyEntry } from '#shared/api/events/history'
import { db } from '../../db/pool'
import { currentPlaybook } from '../../engine/playbook'
import { firstRow, sql } from '../../db/sql'
import { limitedTo, visible } from '../access/access'
import { readerOf, type Viewer } from '../access/viewer'
import type { Changes } from '../bulk/bulkValues'
import { mustSeeCompany } from '../companies/companies'
import { changesInWords, namesFor } from './changesInWords'
import { effectsWhere, UNDONE, type LoggedEffect } from './logged'

interface Row {
  id: Id
  at: number
  kind: string
  by: string | null
  actor: Id | null
  changes: Changes | null
  person: CompanyEntry['person']
  undone: boolean
  effects: LoggedEffect[]
}

/** What was changed of a company and of those merged into it, newest first; by calls and emails with people, too. */
export async function companyHistory(viewer: Viewer, companyId: Id, limit: number): Promise<CompanyEntry[]> {
  await mustSeeCompany(viewer, companyId)
  const book = await currentPlaybook(db())
  const clock = await firstRow(db().query<{ now: number }>(sql`select ms(world_now()) as now`))
  const { rows } = await db().query<Row>(
    sql`
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
      select
        h.id, ms(h.at) as at, h.kind, u.name as by, h.actor_id as actor, x.texts -> 'changes' as changes,
        (
          select json_build_object('id', p.id, 'name', btrim(p.first_name || ' ' || p.last_name))
          from prospects p
          where p.id = h.prospect_id and ${visible('p', '$3')}
        ) as person,
        ${UNDONE} as undone,
        ${effectsWhere(`e.entity = 'company' and e.entity_id in (select id from them)`)} as effects
      from theirs
        join events h on h.id = theirs.id
        left join users u on u.id = h.actor_id
        left join event_texts x on x.event_id = h.id and h.prospect_id is null
      order by h.position desc
      limit $2
    `,
    [companyId, limit, limitedTo(viewer)],
  )
  const names = await namesFor(rows.map((row) => row.changes ?? {}))
  const reader = readerOf(viewer, clock!.now)
  return rows.map((row) => ({
    id: row.id,
    at: row.at,
    title: eventKind(row.kind)?.title ?? row.kind,
    by: row.by,
    body:
      changesInWords(row.changes, names) ??
      (row.effects
        .map((effect) => {
          const what = describeEffect(effect as Effect, book, reader)
          return effect.cause.source === 'person' ? what : `${what} · ${causeInWords(effect.cause, book)}`
        })
        .join('\n') ||
        null),
    person: row.person,
    undone: row.undone,
    // It is undone by way of the prospect.
    canUndo:
      row.kind === 'companyStatusSet' &&
      row.person !== null &&
      !row.undone &&
      (row.actor === viewer.id || manages(viewer)),
  }))
}
