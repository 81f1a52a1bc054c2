import { randomUUID } from 'node:crypto'
import type { Rhythm } from '#core/queue/promise'
import { db } from '../server/db/pool'
import { addField } from '../server/services/customFields'
import { addList, addToList } from '../server/services/lists'
import { setTags } from '../server/services/tags'
import type { Viewer } from '../server/services/sessions'
import { seeded } from './seeded'

const TAGS = ['Met at the fair', 'Audit in spring', 'Paper charts', 'Two sites', 'Asked for a sample', 'Budget in January']
const INDUSTRIES = ['cheese', 'cider', 'seed vault', 'museum store', 'cold warehouse']

/** Tags, ratings, fields of the team's own with values, and companies with something known about them. */
export async function describePeople(manager: Viewer): Promise<void> {
  const random = seeded(23)
  const [rooms, contract, loggers, stored] = await Promise.all([
    addField({ of: 'prospect', name: 'Aging rooms', kind: 'number', choices: [], required: false, quick: true }),
    addField({ of: 'prospect', name: 'Contract ends', kind: 'date', choices: [], required: false }),
    addField({ of: 'prospect', name: 'Measures with', kind: 'choice', choices: ['paper charts', 'own build', 'hand thermometer', 'nothing yet'], required: false }),
    addField({ of: 'company', name: 'Stores', kind: 'choices', choices: ['soft cheese', 'hard cheese', 'cider', 'seeds', 'textiles', 'frozen goods'], required: false }),
  ])
  const { rows: companies } = await db().query<{ id: string }>('select id from companies order by name_key')
  for (const [index, { id }] of companies.entries()) {
    const kinds = [['soft cheese', 'hard cheese'], ['cider'], ['seeds'], ['textiles'], ['frozen goods']][index % 5]!
    await db().query('update companies set industry = $2, size = $3, custom = $4 where id = $1', [id, INDUSTRIES[index % 5], 6 + Math.floor(random() * 240), JSON.stringify({ [stored.id]: kinds })])
  }
  const { rows: people } = await db().query<{ id: string }>('select id from prospects order by created_at, name_key')
  const { rows: [clock] } = await db().query<{ today: string }>(`select to_char(world_now(), 'YYYY-MM-DD') as today`)
  for (const { id } of people) {
    const custom: Record<string, unknown> = {
      ...(random() < 0.5 && { [rooms.id]: 1 + Math.floor(random() * 9) }),
      ...(random() < 0.35 && { [contract.id]: new Date(Date.parse(clock!.today) + Math.floor(random() * 300 - 30) * 86_400_000).toISOString().slice(0, 10) }),
      ...(random() < 0.4 && { [loggers.id]: ['paper charts', 'own build', 'hand thermometer', 'nothing yet'][Math.floor(random() * 4)] }),
    }
    const rating = random() < 0.12 ? 'hot' : random() < 0.35 ? 'warm' : random() < 0.6 ? 'cold' : null
    await db().query('update prospects set custom = custom || $2, rating = coalesce($3, rating), rated_by_score = $3::text is null where id = $1', [id, JSON.stringify(custom), rating])
    const tags = TAGS.filter(() => random() < 0.09)
    if (tags.length) await setTags(manager, id, tags, [])
  }
}

/** A few companies that bought long ago, with the deal that was won. */
export async function addCustomers(): Promise<void> {
  const random = seeded(31)
  const { rows } = await db().query<{ id: string, prospect_id: string, owner_id: string, name: string }>(`select c.id, c.name, p.id as prospect_id, p.owner_id from companies c join lateral (select * from prospects p where p.company_id = c.id order by p.name_key limit 1) p on true
    where c.standing = 'open' and not exists (select from touches t join prospects o on o.id = t.prospect_id where o.company_id = c.id) order by c.name_key limit 4`)
  for (const company of rows) {
    await db().query(`update companies set standing = 'customer' where id = $1`, [company.id])
    await db().query(`insert into deals (id, company_id, prospect_id, owner_id, name, state, likelihood, opened_at, value) values ($1, $2, $3, $4, $5, 'won', 100, world_now() - interval '200 days', $6)`,
      [randomUUID(), company.id, company.prospect_id, company.owner_id, `${company.name}, first order`, 1_800 + Math.floor(random() * 90) * 100])
  }
}

/** Who works together, and a list for one of these teams: the companies they can drive to. */
export async function addTeams(manager: Viewer, east: Viewer, west: Viewer): Promise<void> {
  for (const [user, name] of [[east, 'East'], [west, 'West']] as const) await db().query('update users set team = $2 where id = $1', [user.id, name])
  await addList(manager, { name: 'A day’s drive from Ithaca', kind: 'live', filter: 'place is within 350 km of "Ithaca, NY, US" (42.44063 -76.49661)', audience: 'team', team: 'East', toldBy: 'companies' })
}

/** A field of deals, with a value in most of them. */
export async function describeDeals(): Promise<void> {
  const { id } = await addField({ of: 'deal', name: 'Loggers', kind: 'number', choices: [], required: false })
  await db().query(`update deals set custom = jsonb_build_object($1::text, 4 + (('x' || substr(md5(id::text), 1, 4))::bit(16)::int % 60)) where ('x' || substr(md5(id::text), 5, 2))::bit(8)::int % 4 > 0`, [id])
}

/** Whom one may still hope for. */
const LIVING = 'do not call is no and stage is none of "Not a fit", "Stopped", "Customer"'

/** The lists a team would have, in the order they are worked: the usual practice of domain. */
export async function addLists(manager: Viewer, rep: Viewer): Promise<void> {
  const live = (name: string, filter: string, touchEvery: Rhythm | null = null, touchKinds?: string[]) => addList(manager, { name, kind: 'live', filter, touchEvery, ...(touchKinds && { touchKinds }), ...(touchEvery && { columns: ['companyName', 'thread', 'owner'].map(key => ({ key, width: null })) }) })
  const days = (amount: number): Rhythm => ({ amount, unit: 'days' })
  const sorted = (name: string, filter: string, field: string, down: boolean) => addList(manager, { name, kind: 'live', filter, sort: { field, down } })
  await sorted('Asked us something', 'last reply is in the last 7 days and open deals is 0', 'lastReply', true)
  await live('New, not yet tried', 'new is yes and (last call is never or last call is more than 2 days ago)')
  await live('Hot, keep close', `rating is hot and ${LIVING}`, days(10), ['call', 'text'])
  await live('Warm nurture', `rating is warm and ${LIVING}`, days(25), ['call', 'text'])
  await live('Cold nurture', `rating is cold and ${LIVING}`, days(45), ['call', 'text'])
  await sorted('Gone quiet', 'last reply is ever and last touch is more than 10 days ago', 'lastTouch', false)
  await sorted('Never reached', 'attempts is at least 2 and never reached is yes and cadences now is not set', 'lastTouch', false)
  await live('Best customers', 'customer is yes and won deals is at least 1', { amount: 6, unit: 'months' })
  await live('Said not now', 'last outcome is "Not interested" and last call is in the last 30 days')
  const { id } = await addList(manager, { name: 'Cold chain fair', kind: 'fixed', filter: 'source is "Cold chain fair" and owner is any of "Imani Osei"' })
  await addToList(manager, id, { filter: 'tags has "Met at the fair"' })
  await addList(rep, { name: 'My two sites', kind: 'live', filter: 'owner is me and tags has any of "Two sites"' })
}
