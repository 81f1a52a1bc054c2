import { breadthOfActions, breadthOnTheWay } from '#core/engine/breadth'
import type { ConfiguredAction } from '#core/engine/state/playbook'
import { newId } from '#shared/newId'
import { db, type Db } from '../db/pool'
import { doDueWork, type DueEntry, type Hand } from './dueWork'
import type { Breadth } from './load'
import { rationStarts } from './intake'
import { prepareFree, reactAndWrite, type NewEvent } from './recordEvents'
import { firstRow, sql } from '../db/sql'
import { currentPlaybook } from './playbook'

/** How many steps are taken in one transaction. */
const BATCH = 250

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
        where kind in ('step', 'action') and at <= world_now() and set_aside_at is null
      `,
    ),
  )
  return Math.max(0, row?.lag ?? 0)
}

/** An entry that is due as the event that follows from it. */
type EventOf = (entry: DueEntry) => NewEvent

const about = (entry: DueEntry) => ({
  id: newId(),
  prospectId: entry.prospect_id,
  actorId: null,
  causedByEventId: entry.caused_by_event_id,
})

/**
 * Takes what is due of a kind, in order, up to a batch; gives how many. Entries held by another process are left to it;
 * nothing is waited for, so nothing can block each other. A process that dies in it has done nothing.
 */
async function takeDue(
  kind: 'step' | 'action',
  hand: Hand | null,
  breadthOf: (client: Db, entries: readonly DueEntry[]) => Promise<Breadth>,
  eventOf: EventOf,
): Promise<number> {
  return doDueWork(kind, BATCH, hand, 0, async (client, later, entries) => {
    const ids = [...new Set(entries.map((row) => row.prospect_id))]
    const { state, playbook } = await prepareFree(client, ids, [], await breadthOf(client, entries))
    const found = entries.filter((row) => state.prospect[row.prospect_id])
    const refs = found.map((row) => row.ref_id)
    const may = kind === 'step' ? await rationStarts(client, refs, state, playbook) : new Set(refs)
    const mine = found.filter((row) => may.has(row.ref_id))
    if (!mine.length) return found.length
    const { results } = reactAndWrite(client, later, mine.map(eventOf), state, playbook)
    // What came to nothing (its enrollment has ended, it was canceled) must not come again.
    const idle = mine.filter(({ ref_id }, index) => !results[index]!.effects.some((effect) => effect.id === ref_id))
    if (idle.length) {
      await client.query(
        sql`
          delete from scheduled_actions
          where ref_id = any($1::uuid[]) and kind = $2 and at <= world_now()
        `,
        [idle.map((row) => row.ref_id), kind],
      )
    }
    return found.length
  })
}

/** Takes the steps of cadences that are due; gives how many. */
export async function takeDueSteps(hand: Hand | null = null): Promise<number> {
  return takeDue('step', hand, breadthOfSteps, (entry) => ({
    ...about(entry),
    kind: 'stepDue',
    enrollmentId: entry.ref_id,
  }))
}

/** Does the actions whose time has come; gives how many. */
export async function takeDueActions(hand: Hand | null = null): Promise<number> {
  return takeDue('action', hand, breadthOfDue, (entry) => ({
    ...about(entry),
    kind: 'actionDue',
    delayedActionId: entry.ref_id,
  }))
}

/** How much must be known to take steps: what ways ask, and what is done behind the last one. */
async function breadthOfSteps(client: Db): Promise<Breadth> {
  return breadthOnTheWay(await currentPlaybook(client))
}

/** How much must be known to do actions: their colleagues too, where one of them reaches the company. */
async function breadthOfDue(client: Db, entries: readonly DueEntry[]): Promise<Breadth> {
  const { rows } = await client.query<{ action: ConfiguredAction }>(
    sql`
      select distinct action
      from delayed_actions
      where id = any($1::uuid[])
    `,
    [entries.map((row) => row.ref_id)],
  )
  const actions = rows.map((row) => row.action)
  return breadthOfActions(actions, await currentPlaybook(client))
}
