import { randomUUID } from 'node:crypto'
import { cadenceContent } from '../shared/api/cadences/cadences'
import { db } from '../server/db/pool'
import { firstRow, sql } from '../server/db/sql'
import { takeDueActions, takeDueSteps } from '../server/engine/dueSteps'
import { addCadence } from '../server/services/cadences/editCadence'
import type { Viewer } from '../server/services/access/viewer'
import { z } from 'zod'
import { time, type Measured } from './measure'
import { addCrowd, addUser, freshWorld } from './world'

const ROWS = 100_000

/** Works with so many loops at once until nothing is due any more. */
async function work(take: () => Promise<number>, loops: number): Promise<void> {
  const loop = async () => {
    while ((await take()) > 0);
  }
  await Promise.all(Array.from({ length: loops }, loop))
}

/** One bare UPDATE and one INSERT of as many rows, in a table with a primary key and an index. */
async function bareWrite(): Promise<number> {
  await db().query('drop table if exists bare, bare_log')
  await db().query('create table bare (id uuid primary key, status text not null, at timestamptz not null)')
  await db().query('create table bare_log (id uuid primary key, ref uuid not null, payload jsonb not null)')
  await db().query('create index on bare_log (ref)')
  await db().query(
    sql`
      insert into bare (id, status, at)
      select gen_random_uuid(), 'waiting', now()
      from generate_series(1, ${String(ROWS)})
    `,
  )
  await db().query('vacuum analyze bare')
  return time(async () => {
    await db().query(`update bare set status = 'done', at = now()`)
    await db().query(
      sql`
        insert into bare_log (id, ref, payload)
        select gen_random_uuid(), id, jsonb_build_object('status', status)
        from bare
      `,
    )
  })
}

/** Everyone has an action that is due now: they are rated. */
async function scheduleActions(): Promise<void> {
  await db().query(sql`truncate delayed_actions, scheduled_actions`)
  await db().query(
    sql`
      with made as (
        insert into delayed_actions (id, prospect_id, action, run_at, status)
        select
          gen_random_uuid(), id,
          jsonb_build_object('type', 'rate', 'rating', case when rating = 'hot' then 'cold' else 'hot' end),
          world_now(), 'waiting'
        from prospects
        returning id, prospect_id, run_at
      )
      insert into scheduled_actions (ref_id, kind, at, prospect_id)
      select id, 'action', run_at, prospect_id
      from made
    `,
  )
  await db().query('vacuum analyze delayed_actions')
  await db().query('vacuum analyze scheduled_actions')
}

/** A cadence whose first step is a branch by what is known, with a call on the one way and a task on the other. */
async function branchedCadence(viewer: Viewer): Promise<{ id: string; branchId: string }> {
  const [known, rest, branchId] = [randomUUID(), randomUUID(), randomUUID()]
  const now = { amount: 0, unit: 'hours' as const, at: null }
  const { id } = await addCadence(
    viewer,
    z.object(cadenceContent).parse({
      name: 'Branched',
      cold: false,
      steps: [
        {
          id: branchId,
          kind: 'branch',
          name: 'Hot?',
          wait: now,
          ways: [
            {
              id: known,
              name: 'Hot',
              ends: false,
              when: { type: 'filter', where: { all: [{ field: 'rating', test: { op: 'anyOf', values: ['hot'] } }] } },
            },
            { id: rest, name: 'The rest', ends: false, when: null },
          ],
        },
        { id: randomUUID(), kind: 'call', name: 'Call', wait: now, wayId: known },
        { id: randomUUID(), kind: 'task', name: 'Look them up', wait: now, wayId: rest },
      ],
    }),
  )
  await db().query(sql`update cadences set status = 'active' where id = $1`, [id])
  await db().query(sql`update team set playbook_version = playbook_version + 1`)
  return { id, branchId }
}

async function startEveryone({ id, branchId }: { id: string; branchId: string }, byId: string): Promise<void> {
  await db().query(sql`truncate scheduled_actions`)
  await db().query(
    sql`
      with made as (
        insert into enrollments (id, prospect_id, cadence_id, step_id, status, due_at, started_at, by_id)
        select gen_random_uuid(), id, $1, $2, 'waiting', world_now(), world_now(), $3
        from prospects
        returning id, prospect_id, due_at
      )
      insert into scheduled_actions (ref_id, kind, at, prospect_id)
      select id, 'step', due_at, prospect_id
      from made
    `,
    [id, branchId, byId],
  )
  await db().query('vacuum analyze enrollments')
  await db().query('vacuum analyze scheduled_actions')
}

const left = async () =>
  (await firstRow(
    db().query<{ count: number }>(sql`select count(*)::int as count from scheduled_actions where at <= world_now()`),
  ))!.count

/**
 * 100,000 scheduled actions, and as many steps with branches, due at once, taken by two loops as a worker does: against
 * bare writes of as many rows.
 */
export async function measureDue(): Promise<(Measured | string)[]> {
  const world = await freshWorld('bench_due')
  const rep = await addUser('manager', 'Rep')
  await addCrowd(ROWS, rep.id)
  const bare = await bareWrite()
  const against = (what: string, ours: number): Measured => ({
    what,
    baseline: 'one UPDATE and INSERT of as many rows',
    ours,
    theirs: bare,
    unit: 'ms',
    ratio: ours / bare,
    atMost: 4,
  })
  const lines: (Measured | string)[] = []
  await scheduleActions()
  const one = await time(() => work(takeDueActions, 1))
  await scheduleActions()
  const two = await time(() => work(takeDueActions, 2))
  lines.push(against('100,000 scheduled actions due at once', two), {
    what: 'the same, with two loops',
    baseline: 'with one',
    ours: two,
    theirs: one,
    unit: 'ms',
    ratio: two / one,
    atMost: 1,
  })
  await startEveryone(await branchedCadence(rep), rep.id)
  lines.push(against('100,000 due steps with branches', await time(() => work(takeDueSteps, 2))))
  if (await left()) lines.push(`${await left()} entries were left`)
  await world.leave()
  return lines
}
