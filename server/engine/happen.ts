import { randomUUID } from 'node:crypto'
import type { PoolClient } from 'pg'
import { reachesCompany, reactAll } from '#core/engine/react'
import type { Happening, Problem } from '#core/engine/happenings'
import type { Effect } from '#core/engine/effects'
import type { Playbook } from '#core/engine/playbook'
import type { Situation } from '#core/engine/situation'
import type { Id } from '#core/instant'
import { breaksUnique, transaction, type Db, type Later } from '../db/pool'
import { apply } from './apply'
import { load, loadLocked, lock } from './load'
import { currentPlaybook, latestPlaybook, playbook } from './playbook'

/** A happening before it has its moment: the world's clock is read with the situation. */
export type Told = Happening extends infer H ? (H extends Happening ? Omit<H, 'at'> & { at?: number } : never) : never

/** What became of one happening. */
export interface Result {
  happening: Happening
  effects: Effect[]
  problems: Problem[]
}

/** What a set of happenings came to, with the situation on both sides, for explanations. */
export interface Outcomes {
  results: Result[]
  before: Situation
  after: Situation
  playbook: Playbook
}

/**
 * Reads what is needed to react: locks first, then the situation and the playbook that holds. How wide it must look is
 * asked of the playbook in memory, and once more of the one that turns out to hold.
 */
async function prepare(
  client: Db,
  ids: readonly Id[],
  messageIds: readonly Id[],
  colleagues: (book: Playbook) => boolean,
): Promise<{ situation: Situation; playbook: Playbook }> {
  const wide = colleagues(latestPlaybook() ?? (await currentPlaybook(client)))
  const { situation, playbookVersion } = await loadLocked(client, ids, messageIds, { colleagues: wide })
  const book = await playbook(client, playbookVersion)
  if (wide || !colleagues(book)) return { situation, playbook: book }
  return { situation: (await loadLocked(client, ids, messageIds, { colleagues: true })).situation, playbook: book }
}

/** As `prepare`, for those of the people whom nobody else holds. */
export async function prepareFree(
  client: Db,
  ids: readonly Id[],
  messageIds: readonly Id[] = [],
): Promise<{ situation: Situation; playbook: Playbook }> {
  const held = await lock(client, ids, { colleagues: false }, true)
  const { situation, playbookVersion } = await load(client, held, messageIds)
  return { situation, playbook: await playbook(client, playbookVersion) }
}

/**
 * Reacts to the happenings and writes what follows, inside a transaction that holds the locks. Refused ones leave no
 * trace.
 */
export function settle(
  client: Db,
  later: Later,
  told: readonly Told[],
  situation: Situation,
  book: Playbook,
): Outcomes {
  const happenings = told.map((happening) => ({ ...happening, at: happening.at ?? situation.now }) as Happening)
  const { reactions, situation: after } = reactAll(happenings, situation, book, randomUUID)
  const done = reactions.filter(({ reaction }) => reaction.problems.length === 0)
  if (done.length) {
    later(
      apply(
        client,
        done.map(({ happening, reaction }) => ({ happening, effects: reaction.effects })),
        after,
      ),
    )
  }
  return {
    results: reactions.map(({ happening, reaction }) => ({ happening, ...reaction })),
    before: situation,
    after,
    playbook: book,
  }
}

/** What goes on around happenings in their transaction. */
export interface Around {
  /**
   * Finds out who does all this, together with the first reading; throws where it is nobody. Happenings without an
   * actor are theirs.
   */
  who?(client: PoolClient): Promise<Id>
  /** Reads how often people are to be in touch with, by the goals of their lists. */
  touchGoals?(ids: readonly Id[]): Promise<Situation['touchGoals']>
  /** Looks at the situation before anything is decided; throws where whoever asks has no business here. */
  first?(situation: Situation): void
  /** Does, after the effects, what belongs to them: a note, the text of a mail. Looks at the problems too. */
  inside?(client: PoolClient, outcomes: Outcomes): Promise<void>
  /** People who are needed though nothing happens to them. */
  extraIds?: readonly Id[]
}

/**
 * Lets things happen: one transaction locks, loads, reacts and writes. The one way progress is changed. Telling a
 * happening whose id is known already throws AlreadyTold.
 */
export async function happen(
  told: readonly Told[],
  { who, first, inside, touchGoals, extraIds = [] }: Around = {},
): Promise<Outcomes> {
  const ids = [...new Set([...told.map((happening) => happening.prospectId), ...extraIds])]
  const messageIds = told.flatMap((happening) =>
    'messageId' in happening && happening.messageId ? [happening.messageId] : [],
  )
  try {
    return await transaction(
      async (client, later) => {
        const prepared = prepare(client, ids, messageIds, (book) =>
          told.some((happening) => reachesCompany(happening, book)),
        )
        const [actorId, { situation: loaded, playbook: book }] = await Promise.all([who?.(client) ?? null, prepared])
        const situation = touchGoals ? { ...loaded, touchGoals: await touchGoals(ids) } : loaded
        first?.(situation)
        const missing = told.find((happening) => !situation.prospect[happening.prospectId])
        if (missing) throw new Error(`There is no prospect ${missing.prospectId}`)
        const outcomes = settle(
          client,
          later,
          told.map((happening) => ({ ...happening, actorId: happening.actorId ?? actorId })),
          situation,
          book,
        )
        await inside?.(client, outcomes)
        return outcomes
      },
      { planned: true },
    )
  } catch (error) {
    if (breaksUnique(error, 'happenings_pkey') || breaksUnique(error, 'effects_pkey')) {
      throw new AlreadyTold(told[0]!.id)
    }
    throw error
  }
}

/** The happening with this id is in the journal: what follows from it has been done. */
export class AlreadyTold extends Error {
  constructor(readonly id: Id) {
    super('This has been recorded already')
  }
}
