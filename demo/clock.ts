import { db } from '../server/db/pool'
import { sql } from '../server/db/sql'

/** Stops the world's clock at an instant, for the making of a past. */
export async function stopClock(at: number): Promise<void> {
  await db().query(sql`update clock set frozen_at = $1, target = null`, [new Date(at)])
}
