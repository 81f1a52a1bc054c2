import type { Id } from '#core/instant'
import { onNotice } from '../../db/listen'
import { db, type Db } from '../../db/pool'
import { sql } from '../../db/sql'

const CHANNEL = 'call_block_changed'

/** Says that the block $1 has changed: once the transaction is done, to everyone who looks at it in any process. */
export const SAY_CHANGED = sql`select pg_notify('${CHANNEL}', ($1::uuid)::text)`

/** As `SAY_CHANGED`, by itself. */
export async function sayBlockChanged(blockId: Id, client: Db = db()): Promise<void> {
  await client.query({ name: 'say-block-changed', text: SAY_CHANGED, values: [blockId] })
}

/** Runs something whenever a block has changed, or may have; gives what ends it. */
export function onBlockChange(blockId: Id, run: () => void): () => void {
  return onNotice(CHANNEL, (changedId) => {
    if (changedId === null || changedId === blockId) run()
  })
}
