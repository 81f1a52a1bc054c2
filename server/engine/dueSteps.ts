import { randomUUID } from 'node:crypto'
import { db, type Db } from '../db/pool'
import { doDueWork, type Hand } from './dueWork'
import { prepareFree, reactAndWrite, type NewEvent } from './recordEvents'
import { firstRow, sql } from '../db/sql'

/** How many steps are taken in one transaction. */
const BATCH = 100

/**
 * How far behind the world's time the agenda is, in milliseconds; 0 when nothing is due. Mail held back on purpose is
 * not late, nor is what was set aside.
 */
export async function scheduledActionLag(client: Db = db()): Promise<number> {
  const row = await firstRow(
    client.query<{ lag: number | null }>(
      sql`
        select ms(world_now()) - ms(min(at)) as lag
        from scheduled_actions
        where kind = 'step' and at <= world_now() and set_aside_at is null
      `,
    ),
  )
  return Math.max(0, row?.lag ?? 0)
}

/**
 * Takes the steps that are due, in order, up to a batch; gives how many. Entries held by another process are left to
 * it; nothing is waited for, so nothing can block each other. A process that dies in it has done nothing.
 */
export async function takeDueSteps(hand: Hand | null = null): Promise<number> {
  return doDueWork('step', BATCH, hand, 0, async (client, later, entries) => {
    const ids = [...new Set(entries.map((row) => row.prospect_id))]
    const { state, playbook } = await prepareFree(client, ids)
    const newEvents: NewEvent[] = entries
      .filter((row) => state.prospect[row.prospect_id])
      .map((row) => ({
        id: randomUUID(),
        kind: 'stepDue',
        prospectId: row.prospect_id,
        actorId: null,
        causedByEventId: row.caused_by_event_id,
        enrollmentId: row.ref_id,
      }))
    if (!newEvents.length) return 0
    const outcomes = reactAndWrite(client, later, newEvents, state, playbook)
    // A step that came to nothing (its enrollment has ended) must not come again.
    const idle = outcomes.results
      .filter((result) => !result.effects.some((effect) => effect.entity === 'enrollment'))
      .map((result) => (result.event as { enrollmentId: string }).enrollmentId)
    if (idle.length) {
      await client.query(
        sql`
          delete from scheduled_actions
          where ref_id = any($1::uuid[]) and kind = 'step' and at <= world_now()
        `,
        [idle],
      )
    }
    return newEvents.length
  })
}
