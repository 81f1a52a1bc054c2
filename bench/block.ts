import { randomUUID } from 'node:crypto'
import { performance } from 'node:perf_hooks'
import { db } from '../server/db/pool'
import { firstRow, sql } from '../server/db/sql'
import { addKey } from '../server/services/access/sessions'
import type { Viewer } from '../server/services/access/viewer'
import { quantile, type Measured } from './measure'
import { watchBlock } from './watch'
import { startWeb } from './web'
import { addCrowd, addUser, freshWorld } from './world'

const CALLERS = 20
const PEOPLE = 800
/** A caller speaks between two outcomes: so long, in milliseconds, and each begins at another time. */
const BETWEEN = 1_500
const CALLS = 12
const PORT = 4292

/**
 * From a caller's outcome to the next person with who they are: twenty callers at once in one block, against one caller
 * alone in a block of as many people; and how soon a call is on the screen of a manager who looks at the block. Fails
 * where two callers called the same person.
 */
export async function measureBlock(): Promise<(Measured | string)[]> {
  const world = await freshWorld('bench_block')
  const manager = await addUser('manager', 'Maren')
  const callers: Viewer[] = []
  for (let nth = 0; nth < CALLERS; nth++) callers.push(await addUser('rep', `Caller ${nth}`))
  await addCrowd(PEOPLE * 2, null)
  await db().query(sql`update team set counts_uncalled = true, playbook_version = playbook_version + 1`)
  const { rows } = await db().query<{ id: string }>(sql`select id from prospects order by id`)
  const outcome = await firstRow(db().query<{ id: string }>(sql`select id from outcomes where name = 'No answer'`))
  await db().query('vacuum analyze')
  const web = await startWeb(PORT)
  try {
    const keys = await Promise.all(callers.map(async (caller) => (await addKey(caller, 'bench')).key))
    const { key: manages } = await addKey(manager, 'bench')
    const ask = async <T>(key: string, path: string, body: object): Promise<T> => {
      const response = await fetch(`${web.url}${path}`, {
        method: 'POST',
        headers: { authorization: `Bearer ${key}`, 'content-type': 'application/json' },
        body: JSON.stringify(body),
      })
      if (!response.ok) throw new Error(`${path} answered ${response.status}: ${await response.text()}`)
      return response.json() as Promise<T>
    }
    const made = async (from: number, who: typeof callers) => {
      const id = randomUUID()
      const prospectIds = rows.slice(from, from + PEOPLE).map((row) => row.id)
      await ask(manages, '/api/call-blocks', {
        id,
        name: `Block ${from}`,
        callerIds: who.map((caller) => caller.id),
        who: { prospectIds },
      })
      return id
    }
    const called: string[] = []
    /** One caller's sitting: how long each next person took, in milliseconds. */
    const sit = async (
      key: string,
      blockId: string,
      wait: number,
      pressed: (id: string) => void = () => {},
    ): Promise<number[]> => {
      type Answer = { items: { prospectId: string; group: string }[] }
      await new Promise((resolve) => setTimeout(resolve, wait))
      let next = await ask<Answer>(key, `/api/call-blocks/${blockId}/work`, {})
      const times: number[] = []
      for (let call = 0; call < CALLS; call++) {
        const prospectId = next.items.find(({ group }) => group === 'due')!.prospectId
        await new Promise((resolve) => setTimeout(resolve, BETWEEN))
        const from = performance.now()
        const id = randomUUID()
        pressed(id)
        await ask(key, `/api/prospects/${prospectId}/outcomes`, { id, outcomeId: outcome!.id, blockId })
        next = await ask<Answer>(key, `/api/call-blocks/${blockId}/work`, {})
        times.push(performance.now() - from)
        called.push(prospectId)
      }
      return times
    }
    const shared = await made(0, callers)
    const alone = await made(PEOPLE, callers.slice(0, 1))
    // One caller warms the program up.
    await sit(keys[0]!, alone, 0)
    const one = await sit(keys[0]!, alone, 0)
    const watch = await watchBlock(web.url, manages, shared)
    const many = await Promise.all(keys.map((key, nth) => sit(key, shared, (nth * BETWEEN) / CALLERS, watch.pressed)))
    const seen = await watch.end()
    if (new Set(called).size !== called.length) throw new Error('Two callers called the same person')
    const [ours, theirs] = [quantile(many.flat(), 0.95), quantile(one, 0.95)]
    const measured = {
      what: `Next person for ${CALLERS} callers of one block, 95th percentile`,
      baseline: 'one caller alone',
      ours,
      theirs,
      unit: 'ms',
      ratio: ours / theirs,
      atMost: 1.5,
    }
    return [measured, seen]
  } finally {
    web.end()
    await world.leave()
  }
}
