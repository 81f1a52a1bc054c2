import { whyNotInBlock, type BlockRules } from '#core/blocks/whoFits'
import { isCallable, nextCallable } from '#core/calendar/callingHours'
import { localDay } from '#core/calendar/local'
import type { CallPurpose } from '#core/enumerations'
import type { Id, Instant } from '#core/instant'
import type { z } from 'zod'
import type {
  addBlock as addEndpoint,
  addToBlock as peopleEndpoint,
  editBlock as editEndpoint,
} from '#shared/api/blocks/blocks'
import { breaksUnique, db, transaction, type Db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { logForEach } from '../../engine/eventLog'
import { currentPlaybook } from '../../engine/playbook'
import { notFound, Refusal } from '../access/errors'
import type { Viewer } from '../access/viewer'
import { peopleMeant } from '../bulk/bulk'
import { notifyCallers } from '../notifications/notifications'
import { mustEditBlock, mustSeeBlock } from './access'
import { checkContent, type Content } from './checkContent'
import { sayBlockChanged } from './changes'
import { peopleOf, readCandidates, type CandidateRow } from './people'

type Who = z.output<typeof peopleEndpoint.body>
type Rules = Pick<Content, 'phoneKinds' | 'phoneStatuses' | 'phoneTags' | 'purpose'>

const NAMED = 20
const SET = 1_000

/** Whom the asker means, in the order in which they are called. */
async function meant(viewer: Viewer, { who, notReachedIn }: Who): Promise<Id[]> {
  if (notReachedIn) {
    await mustSeeBlock(viewer, notReachedIn)
    const row = await firstRow(
      db().query<{ pass: number }>(sql`select pass from call_blocks where id = $1`, [notReachedIn]),
    )
    const people = await peopleOf(db(), notReachedIn, 'list', row!.pass)
    return people
      .filter(({ bead }) => !['reached', 'meeting', 'skipped'].includes(bead.state))
      .map((one) => one.prospectId)
  }
  if (!who) throw new Refusal('invalid', CHOOSE, [{ field: 'who', message: CHOOSE }])
  const ids = await peopleMeant(viewer, who)
  if (!who.prospectIds) return ids
  // Those who were selected come in the order in which they were.
  const found = new Set(ids)
  return [...new Set(who.prospectIds)].filter((id) => found.has(id))
}
const CHOOSE = 'Choose who is to be called'

/** Who fits into a block and who does not, with the reason. */
async function look(
  viewer: Viewer,
  who: Who,
  { phoneKinds, phoneStatuses, phoneTags, purpose }: Rules,
  blockId: Id | null,
): Promise<{ found: number; fit: CandidateRow[]; skipped: Map<string, { id: Id; name: string }[]> }> {
  const ids = await meant(viewer, who)
  const rules: BlockRules = { phoneKinds, phoneStatuses, phoneTags, attempts: who.attempts, cold: isCold(purpose) }
  const fit: CandidateRow[] = []
  const skipped = new Map<string, { id: Id; name: string }[]>()
  for (let from = 0; from < ids.length; from += SET) {
    for (const one of await readCandidates(db(), ids.slice(from, from + SET), blockId)) {
      const why =
        whyNotInBlock(one, rules) ?? (one.otherBlock !== null ? `In the call block “${one.otherBlock}”` : null)
      if (why === null) fit.push(one)
      else skipped.set(why, [...(skipped.get(why) ?? []), { id: one.id, name: one.name }])
    }
  }
  return { found: ids.length, fit, skipped }
}
const isCold = (purpose: CallPurpose): boolean => purpose === 'first_contact'

/** How many a block would have, how many of them can be called now and later today, and who is skipped and why. */
export async function previewBlock(viewer: Viewer, asked: Who & Rules) {
  const { found, fit, skipped } = await look(viewer, asked, asked, null)
  const [book, clock] = await Promise.all([
    currentPlaybook(db()),
    firstRow(db().query<{ now: Instant }>(sql`select ms(world_now()) as now`)),
  ])
  const { now } = clock!
  const callable = fit.filter((one) => isCallable(now, book.callHours, one, book.holidays))
  const laterToday = fit.filter((one) => {
    if (callable.includes(one)) return false
    try {
      const opens = nextCallable(now, book.callHours, one, book.holidays)
      return localDay(opens, viewer.timeZone) === localDay(now, viewer.timeZone)
    } catch {
      return false
    }
  })
  return {
    found,
    people: fit.length,
    callableNow: callable.length,
    laterToday: laterToday.length,
    skipped: [...skipped]
      .map(([why, people]) => ({ why, count: people.length, people: people.slice(0, NAMED) }))
      .sort((a, b) => b.count - a.count),
  }
}

/** Writes who calls in a block; gives who did not before. */
async function writeCallers(client: Db, blockId: Id, callerIds: readonly Id[]): Promise<Id[]> {
  const { rows } = await client.query<{ id: Id }>(
    sql`
      with gone as (
        delete from call_block_callers
        where block_id = $1 and user_id <> all($2::uuid[])
      ),
      free as (
        update call_block_people
        set taken_by = null, taken_at = null
        where block_id = $1 and taken_by <> all($2::uuid[])
      )
      insert into call_block_callers (block_id, user_id)
      select $1, id
      from unnest($2::uuid[]) as u(id)
      on conflict do nothing
      returning user_id as id
    `,
    [blockId, callerIds],
  )
  return rows.map(({ id }) => id)
}

/** Puts people into a block behind those who are there; who was taken out comes back. */
async function writePeople(client: Db, viewer: Viewer, blockId: Id, ids: readonly Id[]): Promise<number> {
  const { rows } = await client.query<{ id: Id }>(
    sql`
      insert into call_block_people (block_id, prospect_id, position)
      select $1, u.id, u.place + coalesce((select max(position) from call_block_people where block_id = $1), 0)
      from unnest($2::uuid[]) with ordinality as u(id, place)
      on conflict (block_id, prospect_id) do update
      set removed_at = null
      where call_block_people.removed_at is not null
      returning prospect_id as id
    `,
    [blockId, ids],
  )
  const joined = rows.map(({ id }) => id)
  await logForEach(client, joined, { kind: 'blockJoined', actorId: viewer.id, payload: { blockId } })
  return joined.length
}

/** Makes a block. Asked twice with the same id, it is made once. */
export async function addBlock(
  viewer: Viewer,
  asked: z.output<typeof addEndpoint.body>,
): Promise<{ id: Id; people: number }> {
  const made = await firstRow(db().query(sql`select from call_blocks where id = $1`, [asked.id]))
  if (made) throw alreadyMade()
  await checkContent(viewer, asked)
  const { fit } = await look(viewer, asked, asked, null)
  if (!fit.length) throw new Refusal('invalid', NOBODY, [{ field: 'who', message: NOBODY }])
  const { id } = asked
  try {
    return await transaction(async (client) => {
      await client.query(
        sql`
          insert into call_blocks (
            id, name, purpose, script, created_by, created_at, due_on, target, target_of, sort, phone_kinds,
            phone_statuses, phone_tags, pay_basis, pay_rate, lines, campaign, call_back_message, leaves_messages
          )
          values (
            $1, $2, $3, $4, $5, world_now(), $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16, $17, $18
          )
        `,
        [id, asked.name, asked.purpose, asked.script, viewer.id, ...settingsOf(asked)],
      )
      const callers = await writeCallers(client, id, asked.callerIds)
      const people = await writePeople(
        client,
        viewer,
        id,
        fit.map((one) => one.id),
      )
      await notifyCallers(client, id, callers, people, viewer.id)
      return { id, people }
    })
  } catch (error) {
    if (!breaksUnique(error, 'call_blocks_pkey')) throw error
    throw alreadyMade()
  }
}
const alreadyMade = () => new Refusal('already_done', 'This call block has been made already')
const NOBODY = 'Nobody would be called: look at who is skipped'

const settingsOf = (content: Content): unknown[] => [
  content.dueOn,
  content.target,
  content.targetOf,
  content.sort,
  content.phoneKinds,
  content.phoneStatuses,
  content.phoneTags,
  content.payBasis,
  content.payRate,
  content.lines,
  content.campaign || content.name,
  content.callBackMessage,
  content.leavesMessages,
]

/** Changes a block. Callers who are taken off it give back whom they have not called. */
export async function editBlock(
  viewer: Viewer,
  id: Id,
  { version, ...content }: z.output<typeof editEndpoint.body>,
): Promise<{ version: number }> {
  await mustEditBlock(viewer, id)
  await checkContent(viewer, content)
  return transaction(async (client) => {
    const row = await firstRow(
      client.query<{ version: number }>(sql`select version from call_blocks where id = $1 for update`, [id]),
    )
    if (!row) throw notFound('call block')
    if (row.version !== version) {
      throw new Refusal('conflict', 'Changed by someone else. Load it again', [], { version: row.version })
    }
    await client.query(
      sql`
        update call_blocks
        set
          name = $2, purpose = $3, script = $4, due_on = $5, target = $6, target_of = $7, sort = $8,
          phone_kinds = $9, phone_statuses = $10, phone_tags = $11, pay_basis = $12, pay_rate = $13, lines = $14,
          campaign = $15, call_back_message = $16, leaves_messages = $17, version = version + 1
        where id = $1
      `,
      [id, content.name, content.purpose, content.script, ...settingsOf(content)],
    )
    const fresh = await writeCallers(client, id, content.callerIds)
    const left = await firstRow(
      client.query<{ count: number }>(
        sql`
          select count(*)::int as count
          from call_block_people
          where block_id = $1 and removed_at is null and skipped_at is null
        `,
        [id],
      ),
    )
    await notifyCallers(client, id, fresh, left!.count, viewer.id)
    return { version: version + 1 }
  })
}

/** Adds people to a block, as far as they fit; gives how many came. */
export async function addToBlock(viewer: Viewer, id: Id, who: Who): Promise<{ added: number }> {
  await mustEditBlock(viewer, id)
  const rules = await firstRow(
    db().query<Rules>(
      sql`
        select
          purpose, phone_kinds as "phoneKinds", phone_statuses as "phoneStatuses", phone_tags as "phoneTags"
        from call_blocks
        where id = $1
      `,
      [id],
    ),
  )
  const { fit } = await look(viewer, who, rules!, id)
  const ids = fit.map((one) => one.id)
  return { added: await transaction((client) => writePeople(client, viewer, id, ids)) }
}

/** Takes people out of a block; nobody gets them any more. */
export async function removeFromBlock(viewer: Viewer, id: Id, ids: readonly Id[]): Promise<{ removed: number }> {
  await mustEditBlock(viewer, id)
  return transaction(async (client) => {
    const { rows } = await client.query<{ id: Id }>(
      sql`
        update call_block_people
        set removed_at = world_now(), taken_by = null, taken_at = null
        where block_id = $1 and prospect_id = any($2::uuid[]) and removed_at is null
        returning prospect_id as id
      `,
      [id, ids],
    )
    const left = rows.map((row) => row.id)
    await logForEach(client, left, { kind: 'blockLeft', actorId: viewer.id, payload: { blockId: id } })
    await sayBlockChanged(id, client)
    return { removed: left.length }
  })
}

/** Begins a pass, in which everyone who was not reached is called once more. Callers may, too. */
export async function nextPass(viewer: Viewer, id: Id, pass: number): Promise<{ pass: number; open: number }> {
  const { mayEdit, mayCall } = await mustSeeBlock(viewer, id)
  if (!mayEdit && !mayCall) throw new Refusal('not_allowed', 'You are not a caller of this call block')
  await db().query(sql`update call_blocks set pass = $2 where id = $1 and pass = $2 - 1 and closed_at is null`, [
    id,
    pass,
  ])
  const row = await firstRow(db().query<{ pass: number }>(sql`select pass from call_blocks where id = $1`, [id]))
  if (row!.pass !== pass) throw new Refusal('conflict', `The call block is already in pass ${row!.pass}`)
  const people = await peopleOf(db(), id, 'list', pass)
  return { pass, open: people.filter(({ bead }) => bead.open).length }
}

/** Closes a block: nobody is called in it any more, and its account stays. Or opens it again. */
export async function closeBlock(viewer: Viewer, id: Id, closed: boolean): Promise<void> {
  await mustEditBlock(viewer, id)
  await transaction(async (client) => {
    await client.query(
      sql`
        update call_blocks
        set closed_at = case when $2 then coalesce(closed_at, world_now()) end, version = version + 1
        where id = $1
      `,
      [id, closed],
    )
    if (!closed) return
    await client.query(
      sql`update call_block_people set taken_by = null, taken_at = null where block_id = $1 and taken_by is not null`,
      [id],
    )
    await client.query(
      sql`
        update call_block_sittings
        set ended_at = now()
        where block_id = $1 and ended_at is null
      `,
      [id],
    )
    await sayBlockChanged(id, client)
  })
}
