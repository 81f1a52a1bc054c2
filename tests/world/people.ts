import { randomUUID } from 'node:crypto'
import { closePool, db } from '../../server/db/pool'
import { seedPlaybook } from '../../server/services/firstPlaybook'
import { playbookChanged } from '../../server/engine/playbook'
import { hashPassword } from '../../server/services/passwords'
import type { Viewer } from '../../server/services/sessions'
import { firstRow, sql } from '../../server/db/sql'

/** Monday 23 November 2026, 10:42 in New York: a business day with everything open in the eastern United States. */
export const MONDAY = Date.UTC(2026, 10, 23, 15, 42)

/** Stops the world's clock at an instant. */
export async function freeze(at: number): Promise<void> {
  await db().query(sql`update clock set frozen_at = $1, target = null`, [new Date(at)])
}

/** A user, as the services know one. */
export async function addUser(role: Viewer['role'] = 'rep', name = 'Imani Osei', password?: string): Promise<Viewer> {
  const id = randomUUID()
  const email = `${name.toLowerCase().replaceAll(' ', '.')}.${id.slice(0, 4)}@thornwick.example`
  await db().query(
    sql`
      insert into users (id, email, name, role, zone, password_hash, email_spacing_seconds)
      values ($1, $2, $3, $4, 'America/New_York', $5, 0)
    `,
    [id, email, name, role, password ? await hashPassword(password) : 'none'],
  )
  return {
    id,
    email,
    name,
    role,
    zone: 'America/New_York',
    seesAll: role !== 'rep',
    session: null,
    mustChangePassword: false,
  }
}

/** The usual stages and outcomes, and the clock standing still on a Monday morning. */
export async function startWorld(): Promise<void> {
  await seedPlaybook(db())
  // Nobody dials here: attempts count as they are logged.
  await db().query(sql`
    update team
    set counts_uncalled = true, playbook_version = playbook_version + 1
  `)
  await freeze(MONDAY)
}

/** A company, and people there with an address and a number each. */
export async function addPeople(
  count: number,
  ownerId: string | null,
  company = 'Marlpit Creamery',
): Promise<{ companyId: string; ids: string[] }> {
  const companyId = randomUUID()
  const domain = `${company.toLowerCase().replaceAll(/[^a-z]+/g, '-')}-${companyId.slice(0, 6)}.example`
  await db().query(
    sql`
      insert into companies (id, name, name_key, domain, created_at)
      values ($1, $2, lower($2), $3, world_now())
    `,
    [companyId, company, domain],
  )
  const ids = Array.from({ length: count }, () => randomUUID())
  await db().query(
    sql`
      insert into prospects (
        id, first_name, last_name, name_key, company_id, owner_id, stage_id, zone, country, region, created_at
      )
      select
        id, 'Tomas', 'Bellweather ' || n, 'tomas bellweather ' || n, $2, $3, 'new', 'America/New_York', 'US', 'NY',
        world_now()
      from unnest($1::uuid[]) with ordinality as u(id, n)
    `,
    [ids, companyId, ownerId],
  )
  await db().query(
    `insert into email_addresses (id, prospect_id, address) select gen_random_uuid(), id, 'tomas' || n || '@${domain}' from unnest($1::uuid[]) with ordinality as u(id, n)`,
    [ids],
  )
  await db().query(
    sql`
      insert into phones (id, prospect_id, number)
      select gen_random_uuid(), id, '+1212555' || lpad((100 + n % 100)::text, 4, '0')
      from unnest($1::uuid[]) with ordinality as u(id, n)
    `,
    [ids],
  )
  return { companyId, ids }
}

export interface CadenceStep {
  kind: 'email' | 'call' | 'task'
  amount?: number
  unit?: 'hours' | 'days' | 'business_days'
  subject?: string
  body?: string
}

/** An active cadence; gives its id and those of its steps. */
export async function addCadence(
  steps: readonly CadenceStep[],
  given: { cold?: boolean; replied?: 'person' | 'company' } = {},
): Promise<{ id: string; stepIds: string[] }> {
  const id = randomUUID()
  const stepIds = steps.map(() => randomUUID())
  await db().query(
    sql`
      insert into cadences (id, name, status, cold, replied_scope, created_at)
      values ($1, 'Aging rooms, first contact', 'active', $2, $3, world_now())
    `,
    [id, given.cold ?? true, given.replied ?? 'person'],
  )
  for (const [position, step] of steps.entries()) {
    await db().query(
      sql`
        insert into cadence_steps (id, cadence_id, position, kind, wait_amount, wait_unit, name, subject, body)
        values ($1, $2, $3, $4, $5, $6, $7, $8, $9)
      `,
      [
        stepIds[position],
        id,
        position,
        step.kind,
        step.amount ?? 0,
        step.unit ?? 'hours',
        `Step ${position + 1}`,
        step.subject ?? 'Your aging rooms',
        step.body ?? 'Hello {{ first_name | default: "there" }}.',
      ],
    )
  }
  await playbookChanged(db())
  return { id, stepIds }
}

/** The id of an outcome by its name. */
export async function outcomeId(name: string): Promise<string> {
  const row = await firstRow(db().query<{ id: string }>(sql`select id from outcomes where name = $1`, [name]))
  if (!row) throw new Error(`No outcome ${name}`)
  return row.id
}

/** All rows of a query, for looking at what is there. */
export async function rows<R extends object>(sql: string, values: unknown[] = []): Promise<R[]> {
  return (await db().query(sql, values)).rows as R[]
}

export { closePool }
