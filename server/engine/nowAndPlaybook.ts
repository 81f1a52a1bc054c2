import type { Playbook } from '#core/engine/state/playbook'
import type { Instant } from '#core/instant'
import { db } from '../db/pool'
import { firstRow, sql } from '../db/sql'
import { playbook } from './playbook'

const NOW_SQL = sql`select ms(world_now()) as now, playbook_version as version from team`

/** The world’s time, and the playbook that holds. */
export async function nowAndPlaybook(): Promise<{ now: Instant; book: Playbook }> {
  const row = await firstRow(db().query<{ now: Instant; version: number }>({ name: 'now-and-version', text: NOW_SQL }))
  return { now: row!.now, book: await playbook(db(), row!.version) }
}
