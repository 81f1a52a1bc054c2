import { randomUUID } from 'node:crypto'
import { DateTime } from 'luxon'
import { isBusinessDay } from '../core/calendar/local'
import { db } from '../server/db/pool'
import { firstRow, sql } from '../server/db/sql'
import { holidayTables } from '../server/engine/holidays'
import type { Viewer } from '../server/services/access/viewer'
import { addBlock } from '../server/services/blocks/editBlock'
import { logOutcome } from '../server/services/desk/outcomes'
import { stopClock } from './clock'

const MINUTE = 60_000
const SCRIPT = `Hello {{ first_name }}, this is {{ sender_name }} from Thornwick Sensing.

We have not spoken before, so in one sentence: we watch temperature and humidity in rooms where a mistake is expensive.
How does {{ company | default: "your team" }} find out today when a room drifts at night?`

/** What comes of the calls of the block, one after the other (invented for the demo). */
const CAME_OF: readonly { name: string; note?: string }[] = [
  { name: 'No answer' },
  { name: 'Left voicemail' },
  { name: 'Interested', note: 'Reads the paper chart once a day; a night in March went wrong' },
  { name: 'No answer' },
  { name: 'Meeting booked', note: 'Wants to see the alarm by text' },
  { name: 'Left voicemail' },
  { name: 'Busy' },
  { name: 'Interested', note: 'Asked what one logger costs' },
  { name: 'Left voicemail' },
  { name: 'No answer' },
  { name: 'Not now', note: 'Budget is set in January' },
  { name: 'No answer' },
]

interface Who {
  manager: Viewer
  /** Who calls in the block of yesterday, and who has one for today. */
  yesterday: readonly Viewer[]
  today: readonly Viewer[]
}

/** A block that two reps worked on the working day before, and one for today that nobody has begun. */
export async function addBlocks({ manager, yesterday, today }: Who, start: number, timeZone: string): Promise<void> {
  let day = DateTime.fromMillis(start).setZone(timeZone).minus({ days: 1 })
  while (!isBusinessDay(day.toISODate()!, { country: 'US', region: 'NY' }, holidayTables())) {
    day = day.minus({ days: 1 })
  }
  const at = day.set({ hour: 13, minute: 30 }).toMillis()
  await stopClock(at - 20 * MINUTE)
  const name = 'Never reached, one more try'
  const first = await makeBlock(manager, yesterday, { name, count: 14, dueOn: day.toISODate()! })
  await callAll(first, yesterday, at)
  await stopClock(start)
  const dueOn = DateTime.fromMillis(start).setZone(timeZone).toISODate()!
  await makeBlock(manager, today, { name: 'Quiet since summer', count: 16, dueOn })
}

interface Wanted {
  name: string
  count: number
  dueOn?: string
}

/** A block of people of its callers with a number, in an open stage, who are in no other. */
export async function makeBlock(manager: Viewer, callers: readonly Viewer[], { name, count, dueOn }: Wanted) {
  const { rows } = await db().query<{ id: string }>(
    sql`
      select p.id
      from prospects p
        join stages s on s.id = p.stage_id and s.kind = 'open'
        join companies c on c.id = p.company_id and c.status = 'open'
      where p.owner_id = any($1::uuid[])
        and p.conversations = 0
        and not p.stop_call
        and p.time_zone like 'America/%'
        and exists (select from phones n where n.prospect_id = p.id)
        and not exists (select from call_block_people b where b.prospect_id = p.id)
      order by md5(p.name_key)
      limit $2
    `,
    [callers.map(({ id }) => id), count],
  )
  const id = randomUUID()
  await addBlock(manager, {
    id,
    name,
    purpose: 'follow_up',
    script: SCRIPT,
    callerIds: callers.map((caller) => caller.id),
    dueOn: dueOn ?? null,
    target: 5,
    targetOf: 'conversation',
    sort: 'list',
    phoneKinds: [],
    phoneStatuses: [],
    phoneTags: [],
    payBasis: 'none',
    payRate: 0,
    lines: 1,
    campaign: '',
    callBackMessage: '',
    leavesMessages: false,
    who: { prospectIds: rows.map((row) => row.id) },
    attempts: null,
  })
  return { id, ids: rows.map((row) => row.id) }
}

async function callAll({ id, ids }: { id: string; ids: string[] }, callers: readonly Viewer[], from: number) {
  for (const [index, prospectId] of ids.slice(0, CAME_OF.length).entries()) {
    const caller = callers[index % callers.length]!
    await stopClock(from + index * 3 * MINUTE)
    await logOne(id, prospectId, caller, index, from)
  }
  for (const caller of callers) {
    await db().query(
      sql`
        insert into call_block_sittings (block_id, user_id, started_at, last_seen_at, ended_at)
        values ($1, $2, now() - interval '38 minutes', now(), now())
      `,
      [id, caller.id],
    )
  }
}

async function logOne(blockId: string, prospectId: string, caller: Viewer, index: number, from: number): Promise<void> {
  const { name, note } = CAME_OF[index]!
  const outcome = await firstRow(db().query<{ id: string }>(sql`select id from outcomes where name = $1`, [name]))
  const meeting = {
    title: 'A look at your rooms',
    startAt: from + 6 * 24 * 60 * MINUTE,
    minutes: 30,
    timeZone: caller.timeZone,
  }
  // A gate may hold someone where they are; then it rang out.
  await logOutcome(caller, prospectId, {
    id: randomUUID(),
    outcomeId: outcome!.id,
    taskId: null,
    phoneId: null,
    call: 'elsewhere',
    blockId,
    details: { ...(note && { note }), ...(name === 'Meeting booked' && { meeting }) },
    fingerprint: null,
  }).catch(() => {})
}
