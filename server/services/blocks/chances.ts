import type { BlockSort } from '#core/enumerations'
import type { Id, Instant } from '#core/instant'
import { chancesNow } from '../bestTime/bestTimes'
import type { BlockPerson } from './people'

const remembered = new Map<Id, { minute: number; chances: ReadonlyMap<Id, number> }>()
const REMEMBERED = 100

/**
 * How likely those still to call in a block are to answer now, where it is called in that order; worked out once a
 * minute, since its callers ask again after each call.
 */
export async function chancesIn(
  block: { id: Id; sort: BlockSort; now: Instant },
  people: readonly BlockPerson[],
): Promise<ReadonlyMap<Id, number>> {
  if (block.sort !== 'likely') return new Map()
  const minute = Math.floor(block.now / 60_000)
  const before = remembered.get(block.id)
  if (before?.minute === minute) return before.chances
  const open = people.filter(({ bead }) => bead.open).map(({ prospectId }) => prospectId)
  const chances = await chancesNow(open, block.now)
  if (remembered.size >= REMEMBERED) remembered.clear()
  remembered.set(block.id, { minute, chances })
  return chances
}
