import type { Breadth } from '#core/engine/breadth'
import type { EngineState } from '#core/engine/state/engineState'
import type { Playbook } from '#core/engine/state/playbook'
import type { Id } from '#core/instant'
import type { Db } from '../db/pool'
import { withFacts } from './facts'
import { load } from './load'
import { currentPlaybook, latestPlaybook, playbook } from './playbook'

/**
 * Reads people to look at them, with all that `breadthOf` asks for by the playbook that holds, and locks nothing. For a
 * change, see recordEvents.
 */
export async function loadAsked(
  client: Db,
  ids: readonly Id[],
  breadthOf: (book: Playbook) => Breadth,
): Promise<{ state: EngineState; playbook: Playbook }> {
  const breadth = breadthOf(latestPlaybook() ?? (await currentPlaybook(client)))
  const loaded = await load(client, ids, [], breadth)
  const book = await playbook(client, loaded.playbookVersion)
  const needed = breadthOf(book)
  const enough = (breadth.colleagues || !needed.colleagues) && (breadth.records || !needed.records)
  const { state } = enough ? loaded : await load(client, ids, [], needed)
  return { state: await withFacts(client, state, ids, needed, book), playbook: book }
}
