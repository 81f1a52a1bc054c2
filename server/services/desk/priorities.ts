import type { Problem } from '#core/engine/state/events'
import { onlyCalls } from '#core/roles'
import { conditionsOf, type Filter } from '#core/filter/filter'
import { filterFrom } from '#core/filter/sql'
import type { Id } from '#core/instant'
import type { PriorityPlace, QueuePriority } from '#core/queue/priorities'
import type { QueuePriorities } from '#shared/api/settings/queue'
import { db, transaction } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { playbookChanged } from '../../engine/playbook'
import { Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { ask, filterWorld, inWords, problemsOfList, type FilterWorld } from '../lists/filters'
import { orderOfList } from '../lists/listWork'

/** A priority as a filter: a list is who is on it. */
const filterOf = (priority: QueuePriority): Filter =>
  priority.type === 'filter' ? priority.filter : { field: 'lists', test: { op: 'hasAny', values: [priority.listId] } }

/** Why a priority cannot be asked any more; null where it can. A list that was deleted is nobody's. */
function problemOf(priority: QueuePriority, world: FilterWorld): string | null {
  if (priority.type === 'list' && !world.lists.has(priority.listId)) return 'This list no longer exists'
  return problemsOfList(filterOf(priority), world)[0] ?? null
}

/** A priority in words, as a heading: "Score is at least 50", "On the list “Hot leads”, in its order". */
function priorityInWords(priority: QueuePriority, world: FilterWorld): string {
  if (priority.type === 'list') {
    const name = world.fields.get('lists')?.choices?.find(({ id }) => id === priority.listId)?.name
    return name ? `On the list “${name}”, in its order` : 'On a list, in its order'
  }
  const sentence = inWords(priority.filter, world)
  return sentence.charAt(0).toUpperCase() + sentence.slice(1)
}

interface Placed {
  /** The priorities in words, in their order. */
  labels: string[]
  of: ReadonlyMap<Id, PriorityPlace>
}
export const NO_PRIORITIES: Placed = { labels: [], of: new Map() }

/** Which of these people the team's priorities put first, for a rep: "me" in a filter is them. */
export async function placeByPriority(
  viewer: Viewer,
  ids: readonly Id[],
  priorities: readonly QueuePriority[],
): Promise<Placed> {
  if (!priorities.length) return NO_PRIORITIES
  const world = await filterWorld(viewer)
  const of = new Map<Id, PriorityPlace>()
  for (const [index, priority] of priorities.entries()) {
    const left = ids.filter((id) => !of.has(id))
    if (!left.length || problemOf(priority, world) !== null) continue
    // Whose to-dos a rep has, they see: nobody is left out because of their owner.
    const question = ask({ ...viewer, seesAll: true }, filterOf(priority), world)
    const among = question.parameter(left)
    const order = priority.type === 'list' ? `${await orderOfList(priority.listId, world, question)}, p.id` : 'p.id'
    const { rows } = await db().query<{ id: Id }>(
      sql`
        select p.id
        from ${filterFrom({ readsCompany: question.readsCompany || priority.type === 'list' })}
        where ${question.where} and p.id = any(${among}::uuid[])
        order by ${order}
      `,
      question.values,
    )
    for (const [place, { id }] of rows.entries()) of.set(id, { index, place: priority.type === 'list' ? place : null })
  }
  return { labels: priorities.map((priority) => priorityInWords(priority, world)), of }
}

/** The lists that the queue can be narrowed to: those the viewer sees. */
export async function listsToChoose(viewer: Viewer): Promise<{ id: Id; name: string }[]> {
  if (onlyCalls(viewer)) return []
  const { fields } = await filterWorld(viewer)
  return (fields.get('lists')?.choices ?? []).map(({ id, name }) => ({ id, name }))
}

/** Who of these people is on a list; nobody where the viewer sees no such list, or it cannot be read any more. */
export async function onList(viewer: Viewer, listId: Id, ids: readonly Id[]): Promise<ReadonlySet<Id>> {
  const world = await filterWorld(viewer)
  const isSeen = world.fields.get('lists')?.choices?.some(({ id }) => id === listId)
  if (!ids.length || !isSeen || onlyCalls(viewer)) return new Set()
  const question = ask({ ...viewer, seesAll: true }, filterOf({ type: 'list', listId }), world)
  const { rows } = await db().query<{ id: Id }>(
    sql`
      select p.id
      from ${filterFrom(question)}
      where ${question.where} and p.id = any(${question.parameter(ids)}::uuid[])
    `,
    question.values,
  )
  return new Set(rows.map(({ id }) => id))
}

async function readPriorities(): Promise<QueuePriority[]> {
  const row = await firstRow(
    db().query<{ priorities: QueuePriority[] }>(sql`select queue_priorities as priorities from team`),
  )
  return row!.priorities
}

/** The team's priorities in their order, each in words and with what keeps it from working, if anything does. */
export async function getQueuePriorities(viewer: Viewer): Promise<QueuePriorities> {
  const [priorities, world] = await Promise.all([readPriorities(), filterWorld(viewer)])
  return {
    priorities: priorities.map((priority) => ({
      ...priority,
      inWords: priorityInWords(priority, world),
      problem: problemOf(priority, world),
    })),
  }
}

/** Replaces the team's priorities. Throws at each that cannot be asked. */
export async function editQueuePriorities(
  viewer: Viewer,
  priorities: readonly QueuePriority[],
): Promise<QueuePriorities> {
  const world = await filterWorld(viewer)
  const problems: Problem[] = priorities.flatMap((priority, index) => {
    const isEmpty = priority.type === 'filter' && !conditionsOf(priority.filter).length
    const isTwice = priorities.slice(0, index).some((before) => JSON.stringify(before) === JSON.stringify(priority))
    const unusable = isTwice ? 'This is there already, further up' : problemOf(priority, world)
    const message = isEmpty ? 'Add a condition' : unusable
    return message === null ? [] : [{ field: `priorities.${index}.${FIELD_OF[priority.type]}`, message }]
  })
  if (problems.length) throw new Refusal('invalid', problems[0]!.message, problems)
  await transaction(async (client) => {
    await client.query(sql`update team set queue_priorities = $1`, [JSON.stringify(priorities)])
    await playbookChanged(client)
  })
  return getQueuePriorities(viewer)
}
const FIELD_OF = { filter: 'filter', list: 'listId' } as const
