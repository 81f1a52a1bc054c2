import { ENTITY_NAMES, emptySituation, type EntityName, type Situation } from '#core/engine/situation'
import type { Id } from '#core/instant'
import type { Db } from '../db/pool'
import { selectList } from './columns'

/** How much of a company comes along with a person. */
export interface Breadth {
  /** Everyone at the company, with their open work; needed by whatever may act company-wide. */
  colleagues: boolean
}

/**
 * Locks what is about to change, always in the same order: companies by id, then prospects by id. Gives the ids of
 * those found, colleagues included when asked for. Whoever left the company before the lock was had is not held to it:
 * membership is read after locking. With `skipLocked`, people whose company or row is held elsewhere are left out.
 */
export async function lock(client: Db, ids: readonly Id[], breadth: Breadth, skipLocked = false): Promise<Id[]> {
  const skip = skipLocked ? ' skip locked' : ''
  const companies = await client.query<{ id: Id }>({
    name: `lock-companies${skip}`,
    text: `select c.id from companies c where c.id in (select company_id from prospects where id = any($1::uuid[])) order by c.id for no key update${skip}`,
    values: [ids],
  })
  const held = companies.rows.map(row => row.id)
  const whose = breadth.colleagues ? '(p.id = any($1::uuid[]) or p.company_id = any($2::uuid[]))' : 'p.id = any($1::uuid[])'
  const people = await client.query<{ id: Id, company_id: Id | null }>({
    name: `lock-people${skip}${breadth.colleagues ? '-colleagues' : ''}`,
    text: `select p.id, p.company_id from prospects p where ${whose} and (p.company_id is null or p.company_id = any($2::uuid[])) order by p.id for no key update${skip}`,
    values: [ids, held],
  })
  const found = people.rows.map(row => row.id)
  const moved = skipLocked ? [] : ids.filter(id => !found.includes(id))
  if (!moved.length) return found
  // Somebody changed company between the two statements, or does not exist: read again who does.
  const again = await client.query<{ id: Id }>('select id from prospects where id = any($1::uuid[])', [moved])
  if (again.rows.length) throw Object.assign(new Error('Membership changed while locking'), { code: '40001' })
  return found
}

const OPEN_ONLY: Partial<Record<EntityName, string>> = {
  enrollment: `t.state <> 'ended'`,
  appointment: `t.state = 'booked'`,
  deal: `t.state = 'open'`,
}

function rowsOf(entity: EntityName): string {
  const tables: Record<EntityName, string> = {
    company: `from companies t where t.id in (select company_id from prospects where id = any($1::uuid[]))`,
    prospect: 'from prospects t where t.id = any($1::uuid[])',
    email: 'from emails t where t.prospect_id = any($1::uuid[])',
    phone: 'from phones t where t.prospect_id = any($1::uuid[])',
    enrollment: 'from enrollments t where t.prospect_id = any($1::uuid[])',
    appointment: 'from appointments t where t.prospect_id = any($1::uuid[])',
    // Open work, and what the open enrollments have made already.
    message: `from messages t where t.prospect_id = any($1::uuid[]) and (t.state not in ('sent', 'cancelled', 'failed')
      or exists (select from enrollments e where e.id = t.enrollment_id and e.state <> 'ended') or t.id = any($2::uuid[]))`,
    task: `from tasks t where t.prospect_id = any($1::uuid[]) and (t.state = 'open'
      or exists (select from enrollments e where e.id = t.enrollment_id and e.state <> 'ended'))`,
    touch: 'from touches t where t.prospect_id = any($1::uuid[])',
    deal: 'from deals t where t.prospect_id = any($1::uuid[])',
  }
  const only = OPEN_ONLY[entity]
  return `(select coalesce(json_object_agg(x.id, x order by x.id), '{}') from (select ${selectList(entity, 't')} ${tables[entity]}${only ? ` and ${only}` : ''}) x) as "${entity}"`
}

// Rows come in the order of their ids: what follows from the same rows is then the same in the same order, as fingerprints need.
const LOAD_SQL = `select ms(world_now()) as now, (select playbook_version from team) as "playbookVersion", ${ENTITY_NAMES.map(rowsOf).join(',\n')}`

/** A situation and the version of the playbook that held when it was read. */
export interface Loaded {
  situation: Situation
  playbookVersion: number
}

/**
 * Reads everything the engine may know about the people, in one statement. `messageIds` names mail that matters even
 * though it has left. For a change, call `lock` first in the same transaction and pass what it gave.
 */
export async function load(client: Db, ids: readonly Id[], messageIds: readonly Id[] = []): Promise<Loaded> {
  const { rows: [row] } = await client.query({ name: 'load-situation', text: LOAD_SQL, values: [ids, messageIds] })
  const { now, playbookVersion, ...entities } = row as { now: number, playbookVersion: number }
  return { situation: { ...emptySituation(now), ...entities }, playbookVersion }
}
