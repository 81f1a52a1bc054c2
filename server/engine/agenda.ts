import { randomUUID } from 'node:crypto'
import type { Id } from '#core/instant'
import { db, transaction, type Db } from '../db/pool'
import { prepareFree, settle, type Told } from './happen'

/** How many steps are taken in one transaction. */
const BATCH = 100

/** How far behind the world's time the agenda is, in milliseconds; 0 when nothing is due. Mail held back on purpose is not late. */
export async function agendaLag(client: Db = db()): Promise<number> {
  const { rows: [row] } = await client.query<{ lag: number | null }>(`select ms(world_now()) - ms(min(at)) as lag from agenda where kind = 'step' and at <= world_now()`)
  return Math.max(0, row?.lag ?? 0)
}

/**
 * Takes the steps that are due, in order, up to a batch; gives how many. Entries held by another process are left to
 * it; nothing is waited for, so nothing can block each other. Everything is one transaction: a process that dies in it
 * has done nothing.
 */
export async function takeDueSteps(): Promise<number> {
  return transaction(async (client, later) => {
    const claimed = await client.query<{ ref_id: Id, prospect_id: Id, cause_id: Id | null }>({
      name: 'claim-steps',
      text: `select ref_id, prospect_id, cause_id from agenda where kind = 'step' and at <= world_now() order by at, ref_id limit $1 for update skip locked`,
      values: [BATCH],
    })
    if (!claimed.rows.length) return 0
    const ids = [...new Set(claimed.rows.map(row => row.prospect_id))]
    const { situation, playbook } = await prepareFree(client, ids)
    const told: Told[] = claimed.rows.filter(row => situation.prospect[row.prospect_id]).map(row => (
      { id: randomUUID(), kind: 'stepDue', prospectId: row.prospect_id, actorId: null, causeId: row.cause_id, enrollmentId: row.ref_id }
    ))
    if (!told.length) return 0
    const outcomes = settle(client, later, told, situation, playbook)
    // A step that came to nothing (its enrollment has ended) must not come again.
    const idle = outcomes.results.filter(result => !result.effects.some(effect => effect.entity === 'enrollment')).map(result => (result.happening as { enrollmentId: Id }).enrollmentId)
    if (idle.length) await client.query(`delete from agenda where ref_id = any($1::uuid[]) and kind = 'step' and at <= world_now()`, [idle])
    return told.length
  }, { planned: true })
}
