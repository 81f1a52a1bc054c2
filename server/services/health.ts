import { db, isUnreachable } from '../db/pool'
import { agendaLag } from '../engine/agenda'

/** Whether it works: the database, how far the agenda lags, mail that waits, workers alive. `ok` is false when something needs a person. */
export async function health() {
  try {
    const lag = await agendaLag()
    const { rows: [row] } = await db().query<{ waiting: number, unconfirmed: number, workers: number }>(`select (select count(*) from agenda where kind = 'mail' and at <= world_now()) as waiting,
      (select count(*) from messages where state = 'unconfirmed') as unconfirmed,
      (select count(*) from worker_pools w where exists (select from pg_locks l where l.locktype = 'advisory' and l.classid = 7101 and l.objid = w.id and l.granted)) as workers`)
    return { ok: lag < 60_000 && row!.workers > 0, database: true, agendaLagMs: lag, mailWaiting: row!.waiting, mailUnconfirmed: row!.unconfirmed, workers: row!.workers }
  }
  catch (error) {
    if (!isUnreachable(error)) throw error
    return { ok: false, database: false, agendaLagMs: 0, mailWaiting: 0, mailUnconfirmed: 0, workers: 0 }
  }
}
