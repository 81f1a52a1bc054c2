import { manages } from '#core/roles'
import { stringify } from 'csv-stringify/sync'
import { beadStrings, blockInWords, countBeads, type Bead } from '#core/blocks/beads'
import type { BlockSort, BlockStatus, PayBasis } from '#core/enumerations'
import { CSV, harmless } from '#core/imports/columns'
import type { Id, Instant } from '#core/instant'
import type { Block, BlockSummary, CallerAccount } from '#shared/api/blocks/blocks'
import { db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import type { Viewer } from '../access/viewer'
import { mustSeeBlock } from './access'
import { CALLS_OF_BLOCK, inOrderOfCalls, peopleOf, type BlockPerson } from './people'
import { SECONDS_WORKED, WORKING_NOW } from './work'

/** Of larger blocks the beads are not drawn. */
const DRAWN = 1_000
/** How many of the last calls are shown. */
const CALLS_SHOWN = 100

interface BlockRow extends Pick<BlockSummary, 'id' | 'name' | 'purpose' | 'createdBy' | 'createdAt' | 'dueOn'> {
  target: number | null
  targetOf: BlockSummary['targetOf']
  pass: number
  sort: BlockSort
  callers: { id: Id; name: string }[]
  closedAt: Instant | null
}

const COLUMNS = sql`
  b.id, b.name, b.purpose, m.name as "createdBy", ms(b.created_at) as "createdAt", b.due_on::text as "dueOn",
  b.target, b.target_of as "targetOf", b.pass, b.sort, ms(b.closed_at) as "closedAt",
  (
    select coalesce(json_agg(json_build_object('id', u.id, 'name', u.name) order by u.name), '[]')
    from call_block_callers k
      join users u on u.id = k.user_id
    where k.block_id = b.id
  ) as callers
`

/** A block with how far it is, from its people and their calls. */
function summarize({ sort: _sort, closedAt, ...block }: BlockRow, people: readonly BlockPerson[]): BlockSummary {
  const beads = inOrderOfCalls(people)
  const counts = countBeads(beads)
  const sum = (part: (one: BlockPerson) => number) => people.reduce((total, one) => total + part(one), 0)
  const made = {
    call: sum(({ calls }) => calls),
    conversation: sum(({ conversations }) => conversations),
    meeting: sum(({ meetings }) => meetings),
  }
  return {
    ...block,
    status: statusOf(closedAt, made.call, counts.open),
    counts,
    made,
    inWords: blockInWords(counts),
    beads: beads.length > DRAWN ? [] : inStrings(beads, block.callers),
  }
}

/** The beads one string after the other, as they are drawn. */
const inStrings = (beads: readonly Bead[], callers: readonly { id: Id }[]): Bead[] =>
  beadStrings(
    beads,
    callers.map(({ id }) => id),
  ).flatMap((string) => string.beads)

function statusOf(closedAt: Instant | null, calls: number, open: number): BlockStatus {
  if (closedAt !== null) return 'closed'
  if (open === 0) return 'done'
  return calls > 0 ? 'under_way' : 'not_begun'
}

/** The blocks one calls in or made, a manager’s all; the newest first. */
export async function listBlocks(viewer: Viewer, closed: boolean): Promise<{ blocks: BlockSummary[] }> {
  const { rows } = await db().query<BlockRow>(
    sql`
      select ${COLUMNS}
      from call_blocks b
        join users m on m.id = b.created_by
      where (b.closed_at is not null) = $1
        and (
          $2::uuid is null
            or b.created_by = $2
            or exists (select from call_block_callers k where k.block_id = b.id and k.user_id = $2)
        )
      order by coalesce(b.closed_at, b.created_at) desc, b.id
      limit 100
    `,
    [closed, !manages(viewer) ? viewer.id : null],
  )
  const blocks: BlockSummary[] = []
  for (const row of rows) blocks.push(summarize(row, await peopleOf(db(), row.id, row.sort, row.pass)))
  return { blocks }
}

/** Open blocks in which the viewer calls and someone has not been called yet, what is due first. */
export async function blocksToCall(viewer: Viewer): Promise<{ id: Id; name: string; dueOn: string | null }[]> {
  const { rows } = await db().query<{ id: Id; name: string; dueOn: string | null }>({
    name: 'blocks-to-call',
    text: sql`
      select b.id, b.name, b.due_on::text as "dueOn"
      from call_block_callers k
        join call_blocks b on b.id = k.block_id and b.closed_at is null
      where k.user_id = $1
        and (
          select count(*)
          from call_block_people p
          where p.block_id = b.id and p.removed_at is null and p.skipped_at is null
        ) > (
          select count(distinct e.prospect_id)
          from events e
          where e.payload ->> 'blockId' = b.id::text and e.kind = 'callLogged'
        )
      order by b.due_on nulls last, b.created_at, b.id
      limit 5
    `,
    values: [viewer.id],
  })
  return rows
}

/** What each caller did in a block: those who call in it, and others who did. */
async function accountOf(blockId: Id, payBasis: PayBasis, payRate: number): Promise<CallerAccount[]> {
  const { rows } = await db().query<Omit<CallerAccount, 'pay' | 'caller'> & { id: Id; name: string }>({
    name: 'account-of-block',
    text: sql`
      with ${CALLS_OF_BLOCK},
      made as (
        select
          actor_id as id, count(distinct prospect_id)::int as people, count(*)::int as calls,
          count(distinct prospect_id) filter (where reached)::int as reached,
          count(*) filter (where reached)::int as conversations, count(*) filter (where message)::int as messages,
          count(*) filter (where meeting)::int as meetings
        from calls
        group by 1
      ),
      worked as (
        select s.user_id as id, ${SECONDS_WORKED} as seconds, ${WORKING_NOW} as working
        from call_block_sittings s
        where s.block_id = $1::uuid
        group by 1
      ),
      who as (
        select id, name
        from users
        union all
        select id, dialer
        from call_exports
        where block_id = $1::uuid
      )
      select
        u.id, u.name, coalesce(m.people, 0) as people, coalesce(m.calls, 0) as calls,
        coalesce(m.reached, 0) as reached, coalesce(m.conversations, 0) as conversations,
        coalesce(m.messages, 0) as messages, coalesce(m.meetings, 0) as meetings,
        coalesce(w.seconds, 0) as seconds, coalesce(w.working, false) as "workingNow"
      from who u
        left join made m on m.id = u.id
        left join worked w on w.id = u.id
      where m.id is not null
        or w.id is not null
        or exists (select from call_block_callers k where k.block_id = $1::uuid and k.user_id = u.id)
      order by u.name, u.id
    `,
    values: [blockId],
  })
  return rows.map(({ id, name, ...row }) => {
    const counted = { none: 0, call: row.calls, conversation: row.conversations, meeting: row.meetings }[payBasis]
    return { caller: { id, name }, ...row, pay: Math.round(counted * payRate * 100) / 100 }
  })
}

interface CallRow {
  id: Id
  at: Instant
  prospect: { id: Id; name: string; company: string | null }
  caller: string | null
  outcome: string
  note: string | null
}

async function lastCalls(blockId: Id): Promise<CallRow[]> {
  const { rows } = await db().query<CallRow>(
    sql`
      with ${CALLS_OF_BLOCK}
      select
        k.id, ms(k.at) as at, k.outcome, coalesce(u.name, x.dialer) as caller, n.body as note,
        json_build_object(
          'id', p.id, 'name', btrim(p.first_name || ' ' || p.last_name), 'company', c.name
        ) as prospect
      from calls k
        join prospects p on p.id = k.prospect_id
        left join companies c on c.id = p.company_id
        left join users u on u.id = k.actor_id
        left join call_exports x on x.id = k.actor_id
        left join notes n on n.event_id = k.id
      order by k.position desc
      limit ${CALLS_SHOWN}
    `,
    [blockId],
  )
  return rows
}

interface FullRow extends BlockRow {
  script: string
  phoneKinds: Block['phoneKinds']
  phoneStatuses: Block['phoneStatuses']
  phoneTags: string[]
  payBasis: PayBasis
  payRate: number
  lines: number
  campaign: string
  callBackMessage: string
  leavesMessages: boolean
  version: number
  currency: string
  now: Instant
}

/** A block as it stands. */
export async function getBlock(viewer: Viewer, id: Id): Promise<Block> {
  const { mayEdit, mayCall } = await mustSeeBlock(viewer, id)
  const row = (await firstRow(
    db().query<FullRow>(
      sql`
        select
          ${COLUMNS}, b.script, b.phone_kinds as "phoneKinds", b.phone_statuses as "phoneStatuses",
          b.phone_tags as "phoneTags", b.pay_basis as "payBasis", b.pay_rate::float8 as "payRate", b.version,
          b.lines, b.campaign, b.call_back_message as "callBackMessage", b.leaves_messages as "leavesMessages",
          t.currency, ms(world_now()) as now
        from call_blocks b
          join users m on m.id = b.created_by
          cross join team t
        where b.id = $1
      `,
      [id],
    ),
  ))!
  const { script, phoneKinds, phoneStatuses, phoneTags, payBasis, payRate, version, currency, now, ...rest } = row
  const { lines, campaign, callBackMessage, leavesMessages, ...block } = rest
  const [account, calls, people] = await Promise.all([
    accountOf(id, payBasis, payRate),
    lastCalls(id),
    peopleOf(db(), id, block.sort, block.pass),
  ])
  return {
    ...summarize(block, people),
    sort: block.sort,
    closedAt: block.closedAt,
    callerIds: block.callers.map((caller) => caller.id),
    script,
    phoneKinds,
    phoneStatuses,
    phoneTags,
    payBasis,
    payRate,
    lines,
    campaign,
    callBackMessage,
    leavesMessages,
    version,
    currency,
    mayEdit,
    mayCall,
    account,
    calls,
    skipped: people.flatMap(({ prospectId, name, skippedWhy, bead }) =>
      skippedWhy !== null && bead.state === 'skipped' ? [{ prospect: { id: prospectId, name }, why: skippedWhy }] : [],
    ),
    now,
  }
}

/** The account of a block as a CSV file: a row for each caller, time in minutes, pay in the team's currency. */
export async function blockCsv(viewer: Viewer, id: Id): Promise<string> {
  const { account, name, currency } = await getBlock(viewer, id)
  const head = ['block', 'caller', 'people', 'calls', 'reached', 'conversations', 'messages left', 'meetings']
  const rows = account.map((one) => [
    harmless(name),
    harmless(one.caller.name),
    one.people,
    one.calls,
    one.reached,
    one.conversations,
    one.messages,
    one.meetings,
    Math.round(one.seconds / 6) / 10,
    one.pay.toFixed(2),
  ])
  return `\uFEFF${stringify([[...head, 'minutes', `pay (${currency})`], ...rows], CSV)}`
}
