import { logEvent, logTexts } from '../../engine/eventLog'
import type { DealTerms } from '#core/engine/state/dealTerms'
import { explain } from '#core/engine/explain'
import type { Filter } from '#core/filter/filter'
import { FILTER_FROM } from '#core/filter/sql'
import type { Id } from '#core/instant'
import type { DealRow } from '#shared/api/deals'
import { newId } from '#shared/newId'
import { db, transaction } from '../../db/pool'
import { playbookChanged } from '../../engine/playbook'
import { recordEvents, type NewEvent } from '../../engine/recordEvents'
import { mustSee } from '../access/access'
import { readCustom } from '../fields/customFields'
import { notFound, Refusal, refusedBy } from '../access/errors'
import { ask, filterWorld, readFilter } from '../lists/filters'
import { touchGoals } from '../lists/touchGoals'
import { readerOf, type Viewer } from '../access/viewer'
import { firstRow, sql } from '../../db/sql'

export interface DealStage {
  id: string
  name: string
  likelihood: number
}

/** The stages of deals, in order. */
export async function listDealStages(): Promise<{ stages: DealStage[] }> {
  const { rows } = await db().query<DealStage>(
    sql`
      select id, name, likelihood
      from deal_stages
      where archived_at is null
      order by position
    `,
  )
  return { stages: rows }
}

/**
 * Sets the stages of deals, in order. A stage that is left out is archived; open deals keep it from that, which is said
 * with their number. Closed deals stay in it.
 */
export async function saveDealStages(
  stages: readonly { id: string | null; name: string; likelihood: number }[],
): Promise<{ stages: DealStage[] }> {
  await transaction(async (client) => {
    await client.query(sql`lock table deal_stages in exclusive mode`)
    const keptIds = stages.flatMap((stage) => stage.id ?? [])
    const known = await firstRow(
      client.query<{ all: boolean }>(
        sql`
          select count(*) = cardinality($1::text[]) as all
          from deal_stages
          where id = any($1)
        `,
        [keptIds],
      ),
    )
    if (!known!.all) {
      throw new Refusal('invalid', 'There is no such stage', [{ field: 'stages', message: 'There is no such stage' }])
    }
    const inUse = await firstRow(
      client.query<{ name: string; deals: number }>(
        sql`
          select s.name, count(*)::int as deals
          from deal_stages s
            join deals d on d.deal_stage_id = s.id and d.status = 'open'
          where s.id <> all($1) and s.archived_at is null
          group by s.name, s.position
          order by s.position
          limit 1
        `,
        [keptIds],
      ),
    )
    if (inUse) {
      const message = `${inUse.deals} open ${inUse.deals === 1 ? 'deal is' : 'deals are'} in “${inUse.name}”. Move ${inUse.deals === 1 ? 'it' : 'them'} to another stage first`
      throw new Refusal('refused', message, [{ field: 'stages', message }])
    }
    await client.query(
      sql`
        update deal_stages
        set archived_at = world_now()
        where id <> all($1) and archived_at is null
      `,
      [keptIds],
    )
    // Names may be exchanged: none is taken while the new ones are written.
    await client.query(sql`update deal_stages set name = id where archived_at is null`)
    for (const [position, { id, name, likelihood }] of stages.entries()) {
      await client.query(
        sql`
          insert into deal_stages (id, name, position, likelihood)
          values ($1, $2, $3, $4)
          on conflict
            (id) do update set name = excluded.name, position = excluded.position, likelihood = excluded.likelihood,
            archived_at = null
        `,
        [id ?? newId(), name, position, likelihood],
      )
    }
    await playbookChanged(client)
  })
  return listDealStages()
}

/** Throws at the field where there is no such stage; gives it, null for none. */
async function readStage(id: string | null | undefined): Promise<DealStage | null> {
  if (!id) return null
  const stage = (await listDealStages()).stages.find((one) => one.id === id)
  if (!stage) {
    throw new Refusal('invalid', 'There is no such stage', [{ field: 'stageId', message: 'There is no such stage' }])
  }
  return stage
}

/** Lets one thing happen to a deal, and says what it did. */
async function toDeal(viewer: Viewer, event: NewEvent): Promise<{ summary: string }> {
  const { prospectId } = event
  await mustSee(viewer, prospectId)
  const {
    results: [result],
    before,
    after,
    playbook,
  } = await recordEvents([event], {
    touchGoals: (ids) => touchGoals(viewer, ids),
    alsoWrite: async (_, { results: [done] }) => {
      if (done!.problems.length) throw refusedBy(done!.problems)
    },
  })
  return {
    summary: explain(result!.effects, prospectId, before, after, playbook, readerOf(viewer, before.now)) || 'Saved.',
  }
}

async function prospectOf(dealId: Id): Promise<Id> {
  const deal = await firstRow(
    db().query<{ prospectId: Id }>(sql`select prospect_id as "prospectId" from deals where id = $1`, [dealId]),
  )
  if (!deal) throw notFound('deal')
  return deal.prospectId
}

export interface DealGiven {
  id: Id
  name: string
  value: number | null
  stageId: string | null
  likelihood: number | null
  expectedClose: string | null
  another: boolean
}

/** Opens a deal with a person. `id` is the deal's own; without a likelihood the stage's is taken. */
export async function openDeal(
  viewer: Viewer,
  prospectId: Id,
  { id, another, likelihood, ...terms }: DealGiven,
): Promise<{ summary: string }> {
  const stage = await readStage(terms.stageId)
  const deal: DealTerms = { ...terms, likelihood: likelihood ?? stage?.likelihood ?? 15 }
  return toDeal(viewer, {
    id: newId(),
    kind: 'dealOpened',
    prospectId,
    actorId: viewer.id,
    causedByEventId: null,
    dealId: id,
    deal,
    another,
  })
}

export interface DealEdit {
  name?: string
  value?: number | null
  stageId?: string | null
  likelihood?: number
  expectedClose?: string | null
  custom?: Record<string, unknown>
}

/**
 * Changes an open deal; custom fields of a closed one, too. A new stage brings its likelihood along unless one is
 * given.
 */
export async function editDeal(viewer: Viewer, id: Id, { custom: given, ...edit }: DealEdit): Promise<void> {
  const prospectId = await prospectOf(id)
  await mustSee(viewer, prospectId)
  const stage = await readStage(edit.stageId)
  const change: Partial<DealTerms> = {
    ...edit,
    ...(stage && edit.likelihood === undefined && { likelihood: stage.likelihood }),
  }
  const deal = await firstRow(
    db().query<{ status: string; custom: Record<string, unknown> }>(
      sql`select status, custom from deals where id = $1`,
      [id],
    ),
  )
  if (deal!.status !== 'open' && Object.keys(change).some((key) => key !== 'name')) {
    throw new Refusal('refused', 'This deal is closed')
  }
  if (deal!.status === 'open' && Object.keys(change).length) {
    await toDeal(viewer, {
      id: newId(),
      kind: 'dealChanged',
      prospectId,
      actorId: viewer.id,
      causedByEventId: null,
      dealId: id,
      change,
    })
  }
  const custom = given && (await readCustom('deal', given, db()))
  if (!custom) return
  await transaction(async (client) => {
    await client.query(sql`update deals set custom = jsonb_strip_nulls(custom || $2) where id = $1`, [
      id,
      JSON.stringify(custom),
    ])
    const eventId = await logEvent(client, {
      kind: 'dealEdited',
      prospectId,
      dealId: id,
      actorId: viewer.id,
      payload: { dealId: id, fields: Object.keys(custom) },
    })
    const changes = Object.entries(custom).map(([field, value]) => [field, [deal!.custom[field] ?? null, value]])
    await logTexts(client, eventId, prospectId, { changes: Object.fromEntries(changes) })
  })
}

/** Closes a deal as won or lost. */
export async function closeDeal(
  viewer: Viewer,
  dealId: Id,
  given: { id: Id; result: 'won' | 'lost'; reason: string | null; value?: number | null },
): Promise<{ summary: string }> {
  return toDeal(viewer, {
    ...given,
    kind: 'dealClosed',
    prospectId: await prospectOf(dealId),
    actorId: viewer.id,
    causedByEventId: null,
    dealId,
  })
}

export interface DealsAsked {
  status: 'open' | 'won' | 'lost' | 'all'
  owner?: Id
  filter?: Filter | string
  sort: 'expectedClose' | 'value' | 'likelihood' | 'openedAt' | 'closedAt'
  down: boolean
  limit: number
  after: number
}

const ORDER: Readonly<Record<DealsAsked['sort'], string>> = {
  expectedClose: 'd.expected_close',
  value: 'd.value',
  likelihood: 'd.likelihood',
  openedAt: 'd.opened_at',
  closedAt: 'd.closed_at',
}

interface DealsPage {
  deals: DealRow[]
  count: number
  value: number
  weighted: number
}

/** Deals of people whom the viewer may see and who fit the filter, with what they come to together. */
export async function findDeals(viewer: Viewer, asked: DealsAsked): Promise<DealsPage> {
  const world = await filterWorld(viewer)
  const about = ask(viewer, readFilter(asked.filter, world), world)
  const conditions = [
    about.where,
    ...(asked.status === 'all' ? [] : [`d.status = ${about.parameter(asked.status)}`]),
    ...(asked.owner ? [`d.owner_id = ${about.parameter(asked.owner)}::uuid`] : []),
  ]
  const from = `from ${FILTER_FROM} join deals d on d.prospect_id = p.id where ${conditions.join(' and ')}`
  const sum = await firstRow(
    db().query<{ count: number; value: number; weighted: number }>(
      sql`
        select
          count(*)::int as count, coalesce(sum(d.value), 0)::float8 as value,
          coalesce(sum(d.value * d.likelihood / 100), 0)::float8 as weighted ${from}
      `,
      about.values,
    ),
  )
  const { rows } = await db().query<DealRow>(
    sql`
      select
        d.id, d.name, d.status, d.likelihood, d.value::float8 as value,
        to_char(d.expected_close, 'YYYY-MM-DD') as "expectedClose", ms(d.opened_at) as "openedAt",
        ms(d.closed_at) as "closedAt", d.close_reason as reason,
        json_build_object('id', p.id, 'name', btrim(p.first_name || ' ' || p.last_name)) as person,
        case when c.id is not null then json_build_object('id', c.id, 'name', c.name) end as company,
        (select json_build_object('id', u.id, 'name', u.name) from users u where u.id = d.owner_id) as owner,
        (select json_build_object('id', s.id, 'name', s.name) from deal_stages s where s.id = d.deal_stage_id) as
          stage ${from}
      order by ${ORDER[asked.sort]} ${asked.down ? 'desc' : 'asc'} nulls last, d.id
      limit ${about.parameter(asked.limit)}
      offset ${about.parameter(asked.after)}
    `,
    about.values,
  )
  return { deals: rows, ...sum! }
}
