import { randomUUID } from 'node:crypto'
import { db } from '../server/db/pool'
import type { BulkAction } from '../shared/api/bulk'
import { runBulk } from '../server/services/bulk/runBulk'
import { startBulk } from '../server/services/bulk/bulk'
import { undoBulk } from '../server/services/bulk/bulkUndo'
import { addField } from '../server/services/fields/customFields'
import { closeDeal, editDeal, listDealStages } from '../server/services/deals/deals'
import { enroll } from '../server/services/cadences/enrollments'
import { addList } from '../server/services/lists/lists'
import { addToList } from '../server/services/lists/batches'
import { STARTER_LISTS, takeLists } from '../server/services/starters/starters'
import { setTags } from '../server/services/fields/tags'
import type { Viewer } from '../server/services/access/viewer'
import { industryOf } from './names'
import { seeded } from './seeded'
import { firstRow, sql } from '../server/db/sql'

const TAGS = [
  'Met at the fair',
  'Audit in spring',
  'Paper charts',
  'Two sites',
  'Asked for a sample',
  'Budget in January',
]
/** Tags, ratings, fields of the team's own with values, and companies with something known about them. */
export async function describePeople(manager: Viewer): Promise<void> {
  const random = seeded(23)
  const [rooms, contract, loggers, stored] = await Promise.all([
    addField({ of: 'prospect', name: 'Aging rooms', kind: 'number', choices: [], required: false, indexed: true }),
    addField({ of: 'prospect', name: 'Contract ends', kind: 'date', choices: [], required: false }),
    addField({
      of: 'prospect',
      name: 'Measures with',
      kind: 'choice',
      choices: ['paper charts', 'own build', 'hand thermometer', 'nothing yet'],
      required: false,
    }),
    addField({
      of: 'company',
      name: 'Stores',
      kind: 'choices',
      choices: ['soft cheese', 'hard cheese', 'cider', 'seeds', 'textiles', 'frozen goods'],
      required: false,
    }),
  ])
  const { rows: companies } = await db().query<{ id: string; name: string }>(
    sql`select id, name from companies order by name_key`,
  )
  for (const { id, name } of companies) {
    const industry = industryOf(name)
    await db().query(sql`update companies set industry = $2, size = $3, custom = $4 where id = $1`, [
      id,
      industry.name,
      6 + Math.floor(random() * 240),
      JSON.stringify({ [stored.id]: industry.stores }),
    ])
  }
  const { rows: people } = await db().query<{ id: string }>(sql`select id from prospects order by created_at, name_key`)
  const clock = await firstRow(db().query<{ today: string }>(sql`select to_char(world_now(), 'YYYY-MM-DD') as today`))
  for (const { id } of people) {
    const custom: Record<string, unknown> = {
      ...(random() < 0.5 && { [rooms.id]: 1 + Math.floor(random() * 9) }),
      ...(random() < 0.35 && {
        [contract.id]: new Date(Date.parse(clock!.today) + Math.floor(random() * 300 - 30) * 86_400_000)
          .toISOString()
          .slice(0, 10),
      }),
      ...(random() < 0.4 && {
        [loggers.id]: ['paper charts', 'own build', 'hand thermometer', 'nothing yet'][Math.floor(random() * 4)],
      }),
    }
    const shares = [
      ['hot', 0.12],
      ['warm', 0.35],
      ['cold', 0.6],
    ] as const
    const rating = shares.find(([, share]) => random() < share)?.[0] ?? null
    await db().query(
      sql`
        update prospects
        set custom = custom || $2, rating = coalesce($3, rating), rated_by_score = $3::text is null
        where id = $1
      `,
      [id, JSON.stringify(custom), rating],
    )
    const tags = TAGS.filter(() => random() < 0.09)
    if (tags.length) await setTags(manager, id, tags, [])
  }
}

interface CustomerRow {
  id: string
  prospect_id: string
  owner_id: string
  name: string
}

/** A few companies that bought long ago, with the deal that was won. */
export async function addCustomers(): Promise<void> {
  const random = seeded(31)
  const { rows } = await db().query<CustomerRow>(sql`
    select c.id, c.name, p.id as prospect_id, p.owner_id
    from companies c
      join lateral (select * from prospects p where p.company_id = c.id order by p.name_key limit 1) p on true
    where c.status = 'open'
      and not exists (
        select
        from enrollments e
          join prospects o on o.id = e.prospect_id
        where o.company_id = c.id and e.status <> 'ended'
      )
      and not exists (select from deals d where d.company_id = c.id)
    order by
      (select count(*) from touches t join prospects o on o.id = t.prospect_id where o.company_id = c.id),
      c.name_key
    limit 6
  `)
  for (const company of rows) {
    await db().query(sql`update companies set status = 'customer' where id = $1`, [company.id])
    await db().query(sql`update prospects set stage_id = 'customer' where id = $1`, [company.prospect_id])
    await db().query(
      sql`
        update tasks
        set status = 'cancelled', done_at = world_now()
        where prospect_id = $1 and status = 'open'
      `,
      [company.prospect_id],
    )
    await db().query(
      sql`
        insert into deals (
          id, company_id, prospect_id, owner_id, name, status, likelihood, opened_at, closed_at, value
        )
        values (
          $1, $2, $3, $4, $5, 'won', 100, world_now() - interval '200 days', world_now() - interval '160 days', $6
        )
      `,
      [
        randomUUID(),
        company.id,
        company.prospect_id,
        company.owner_id,
        `${company.name}, first order`,
        1_800 + Math.floor(random() * 90) * 100,
      ],
    )
  }
}

/** Starts the cadence for customers with a second site, for those who were not called this month. */
export async function enrollCustomers(cadenceId: string): Promise<void> {
  const { rows } = await db().query<{ id: string; owner: Viewer }>(
    sql`
      select
        p.id,
        jsonb_build_object(
          'id', u.id, 'name', u.name, 'email', u.email, 'role', u.role, 'timeZone', u.time_zone, 'seesAll', false
        ) as owner
      from prospects p
        join users u on u.id = p.owner_id
      where p.stage_id = 'customer' and not p.stop_call
      order by p.name_key
      limit 6
    `,
  )
  for (const { id, owner } of rows) await enroll(owner, cadenceId, { prospectIds: [id] }, false)
}

/** Deals as a quarter leaves them: open ones with a value, a stage and a day, some won, some lost with a reason. */
export async function moveDeals(manager: Viewer): Promise<void> {
  const random = seeded(47)
  const { rows } = await db().query<{ id: string; today: string }>(
    sql`
      select d.id, to_char(world_now(), 'YYYY-MM-DD') as today
      from deals d
      where d.status = 'open'
      order by d.opened_at, d.id
    `,
  )
  const { stages } = await listDealStages()
  const reasons = ['No budget until spring', 'Chose a competitor', 'No decision', 'Keeps paper charts for now']
  for (const [index, { id, today }] of rows.entries()) {
    const stage = stages[Math.floor(random() * stages.length)]!
    const expectedClose = new Date(Date.parse(today) + Math.floor(random() * 75 - 8) * 86_400_000)
      .toISOString()
      .slice(0, 10)
    await editDeal(manager, id, { value: 1_200 + Math.floor(random() * 140) * 50, stageId: stage.id, expectedClose })
    if (index % 6 === 1) await closeDeal(manager, id, { id: randomUUID(), result: 'won', reason: null })
    if (index % 6 === 4) {
      await closeDeal(manager, id, { id: randomUUID(), result: 'lost', reason: reasons[index % reasons.length]! })
    }
  }
}

/** Who works together, and a list for one of these teams: the companies they can drive to. */
export async function addTeams(manager: Viewer, reps: readonly Viewer[]): Promise<void> {
  for (const [index, { id }] of reps.entries()) {
    await db().query(sql`update users set team = $2 where id = $1`, [id, index % 2 ? 'West' : 'East'])
  }
  await addList(manager, {
    name: 'A day’s drive from Ithaca',
    kind: 'live',
    filter: 'place is within 220 miles of "Ithaca, NY, US" (42.44063 -76.49661)',
    visibility: 'team',
    team: 'East',
    defaultView: 'companies',
  })
}

/** A field of deals, with a value in most of them. */
export async function describeDeals(): Promise<void> {
  const { id } = await addField({ of: 'deal', name: 'Loggers', kind: 'number', choices: [], required: false })
  await db().query(
    sql`
      update deals
      set custom = jsonb_build_object($1::text, 4 + (('x' || substr(md5(id::text), 1, 4))::bit(16)::int % 60))
      where ('x' || substr(md5(id::text), 5, 2))::bit(8)::int % 4 > 0
    `,
    [id],
  )
}

/** The lists a team would have: those that ship, a fixed one and a rep's own. */
export async function addLists(manager: Viewer, rep: Viewer): Promise<void> {
  await takeLists(
    manager,
    STARTER_LISTS.map((list) => list.key),
  )
  const { id } = await addList(manager, {
    name: 'Cold chain fair',
    kind: 'fixed',
    filter: 'source is "Cold chain fair" and owner is any of "Imani Osei"',
  })
  await addToList(manager, id, { filter: 'tags has "Met at the fair"' })
  await addList(rep, { name: 'My two sites', kind: 'live', filter: 'owner is me and tags has any of "Two sites"' })
}

/** What a manager changed for many at once, and what was undone again. */
export async function changeMany(manager: Viewer): Promise<void> {
  const run = async (action: BulkAction, filter: string) => {
    const id = randomUUID()
    await startBulk(manager, { id, action, filter })
    await runBulk(id)
    return id
  }
  await run({ type: 'tag', tag: 'Audit in spring' }, 'industry is "cheese" and rating is warm')
  await run({ type: 'setField', field: 'source', value: 'Cold chain fair' }, 'tags has "Met at the fair"')
  const mistaken = await run({ type: 'rate', rating: 'hot' }, 'tags has "Two sites"')
  const id = randomUUID()
  await undoBulk(manager, mistaken, { id })
  await runBulk(id)
}
