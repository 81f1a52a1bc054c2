import type { Playbook } from '#core/engine/state/playbook'
import type { Instant, Id } from '#core/instant'
import { bySort, CHANNEL_OF, isChosen, type ChosenWork, type QueueChoice } from '#core/queue/choice'
import { emptyCounts, isWaiting, QUEUE_GROUPS, type QueueGroup } from '#core/queue/groupNames'
import { byPriority } from '#core/queue/priorities'
import { callableUntil } from '#core/calendar/callingHours'
import { local } from '#core/calendar/local'
import { showDate } from '#core/calendar/dateStyle'
import { momentInWords } from '#core/engine/explain'
import { chanceInWords } from '#core/queue/why'
import type { QueueChannel, QueueSort } from '#core/enumerations'
import { db } from '../../db/pool'
import { sql } from '../../db/sql'
import { readerOf, type Viewer } from '../access/viewer'
import { chancesNow } from '../bestTime/bestTimes'
import { isCall } from '../lists/queueHours'
import { nowAndPlaybook } from '../../engine/nowAndPlaybook'
import { endOfDay, stepsLater } from './dueToday'
import { listsToChoose, NO_PRIORITIES, onList, placeByPriority } from './priorities'
import { asItem, STEP_COLUMNS, TASK_COLUMNS, type QueueRow } from './queueRows'

/** How much of one day is looked at: nobody works through more. */
const MOST = 4_000
const LATER_SHOWN = 60

/** All that is open and due by the end of the rep's day, with steps of cadences that fall due by then. */
async function readDay(viewer: Viewer, now: Instant): Promise<QueueRow[]> {
  const end = new Date(endOfDay(now, viewer.timeZone))
  const [tasks, steps] = await Promise.all([
    db().query<QueueRow>({
      name: 'day-of-queue',
      text: sql`
        select ${TASK_COLUMNS}
        from tasks t
          join prospects p on p.id = t.prospect_id
          left join companies c on c.id = p.company_id
          left join cadence_steps s on s.id = t.step_id
        where t.owner_id = $1 and t.status = 'open' and t.due_at < $2
        order by t.priority, t.due_at, t.id
        limit ${MOST}
      `,
      values: [viewer.id, end],
    }),
    db().query<QueueRow>({
      name: 'steps-of-day',
      text: sql`
        select ${STEP_COLUMNS} ${stepsLater('$1', '$2', '$3')}
        order by a.at, e.id
        limit ${MOST}
      `,
      values: [viewer.id, new Date(now), end],
    }),
  ])
  return [...tasks.rows, ...steps.rows]
}

const asWork = (row: QueueRow, chances: ReadonlyMap<Id, number>): ChosenWork => {
  const chance = chances.get(row.prospectId)
  return { ...row, keepsHours: isCall(row.kind), ...(chance !== undefined && { chance }) }
}
const NO_CHANCES: ReadonlyMap<Id, number> = new Map()
const idsOf = (rows: readonly QueueRow[]): Id[] => [...new Set(rows.map(({ prospectId }) => prospectId))]

/**
 * What a rep has chosen of their queue, in the order they chose. Promised call backs and answers stay on top in every
 * order; what opens later is the last.
 */
export async function chosenQueue(viewer: Viewer, limit: number, choice: QueueChoice, now: Instant, book: Playbook) {
  const { callHours: hours, holidays } = book
  const all = (await readDay(viewer, now)).map((row) => ({ row, work: asWork(row, NO_CHANCES) }))
  const fitting = all.filter(({ work }) => isChosen(choice, work, hours, holidays)).map(({ row }) => row)
  const listed = choice.listId ? await onList(viewer, choice.listId, idsOf(fitting)) : null
  const chosen = listed ? fitting.filter(({ prospectId }) => listed.has(prospectId)) : fitting
  const toCall = idsOf(chosen.filter(({ kind }) => isCall(kind)))
  const chances = choice.sort === 'likely' ? await chancesNow(toCall, now) : NO_CHANCES
  const placed =
    choice.sort === 'recommended' ? await placeByPriority(viewer, idsOf(chosen), book.queuePriorities) : NO_PRIORITIES
  const compare = bySort(choice.sort, now, hours, holidays)
  const inOrder = chosen
    .map((row) => {
      const item = asItem(row, now, book, viewer)
      const priority = COME_FIRST.has(item.group) || isWaiting(item.group) ? undefined : placed.of.get(row.prospectId)
      return { work: asWork(row, chances), item, priority, urgency: row.priority }
    })
    .sort((a, b) => {
      const [one, other] = [rank(a.item.group, choice), rank(b.item.group, choice)]
      if (isFirst(a) !== isFirst(b)) return isFirst(a) ? -1 : 1
      const prior = byPriority(a.priority, b.priority)
      if (prior !== 0 && !isFirst(a)) return prior
      if (one !== other) return one - other
      if (isWaiting(a.item.group)) return (a.item.opensAt ?? Infinity) - (b.item.opensAt ?? Infinity)
      return (choice.sort === 'recommended' ? a.urgency - b.urgency : 0) || compare(a.work, b.work)
    })
  const counts = emptyCounts()
  const priorities = placed.labels.map((label) => ({ label, count: 0 }))
  for (const { item, priority } of inOrder) {
    if (priority) priorities[priority.index]!.count++
    else counts[item.group]++
  }
  const ready = inOrder.filter(({ item }) => !isWaiting(item.group)).slice(0, limit)
  const later = inOrder.filter(({ item }) => isWaiting(item.group)).slice(0, LATER_SHOWN)
  return {
    counts,
    priorities: priorities.filter(({ count }) => count > 0),
    items: [...ready, ...later].map(({ item: found, work, priority }) => {
      const item = { ...found, priority: priority ? placed.labels[priority.index]! : null }
      // What opens later stands in the order in which it does.
      const place = isWaiting(item.group) ? null : placeInWords(choice.sort, work, viewer, now, book)
      return { ...item, why: place ? `${place}, ${item.why}` : item.why }
    }),
  }
}

/** What comes first in every order: what was promised for now, and answers. */
const COME_FIRST: ReadonlySet<QueueGroup> = new Set(['promised', 'answer'])
const isFirst = ({ item }: { item: { group: QueueGroup } }) => COME_FIRST.has(item.group)

/** Why it has its place in the order the rep chose; null in the recommended one, where the groups say it. */
function placeInWords(sort: QueueSort, work: ChosenWork, viewer: Viewer, now: Instant, book: Playbook): string | null {
  const reader = readerOf(viewer, now)
  if (sort === 'score') return `score ${work.score}`
  if (sort === 'due') return `due ${momentInWords(work.dueAt, reader)}`
  if (sort === 'likely') {
    return work.keepsHours && work.chance !== undefined ? chanceInWords(work.chance) : null
  }
  const until = sort === 'closing' && work.keepsHours ? callableUntil(now, book.callHours, work, book.holidays) : null
  if (until === null) return null
  return `callable until ${showDate(local(until, viewer.timeZone), viewer.dateStyle, 'clock')} your time`
}

/** Where a group stands: in the recommended order each after the other, else all between answers and later together. */
function rank(group: QueueGroup, { sort }: QueueChoice): number {
  if (isWaiting(group)) return QUEUE_GROUPS.length
  const place = QUEUE_GROUPS.indexOf(group)
  return sort === 'recommended' ? place : Math.min(place, QUEUE_GROUPS.indexOf('overdue_reached'))
}

/** What the rep’s day can be narrowed to, with how much there is of each. */
export async function queueChoices(viewer: Viewer) {
  const { now } = await nowAndPlaybook()
  const [rows, lists] = await Promise.all([readDay(viewer, now), listsToChoose(viewer)])
  const count = <Key>(keyOf: (row: QueueRow) => Key | null) => {
    const counts = new Map<Key, number>()
    for (const row of rows) {
      const key = keyOf(row)
      if (key !== null) counts.set(key, (counts.get(key) ?? 0) + 1)
    }
    return [...counts].sort((a, b) => b[1] - a[1])
  }
  const cadences = count<Id>((row) => row.cadenceId)
  const { rows: names } = await db().query<{ id: Id; name: string }>(
    sql`select id, name from cadences where id = any($1::uuid[])`,
    [cadences.map(([id]) => id)],
  )
  const nameOf = new Map(names.map(({ id, name }) => [id, name]))
  return {
    channels: count<QueueChannel>((row) => CHANNEL_OF[row.kind]).map(([channel, of]) => ({ channel, count: of })),
    cadences: cadences.map(([id, of]) => ({ id, name: nameOf.get(id) ?? '', count: of })),
    lists,
    timeZones: count<string>((row) => row.timeZone).map(([timeZone, of]) => ({ timeZone, count: of })),
  }
}
