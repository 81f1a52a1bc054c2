import type { Place } from '#core/calendar/local'
import { isToCall, stateOf, type Bead, type CallsOfOne } from '#core/blocks/beads'
import type { BlockPhone, Candidate } from '#core/blocks/whoFits'
import type { BlockSort } from '#core/enumerations'
import type { Id, Instant } from '#core/instant'
import type { Db } from '../../db/pool'
import { sql } from '../../db/sql'

/** For so long someone who was taken is nobody else's, from the caller's last sign of life. */
export const HOLDS = `interval '10 minutes'`

/**
 * The calls of the block $1, each with what came of it; those that were taken back are left out. An outcome counts as
 * it did when it was logged. Of a call that another dialer made, `actor_id` is the export to it.
 */
export const CALLS_OF_BLOCK = sql`
  calls as (
    select
      e.id, e.prospect_id, coalesce((e.payload ->> 'exportId')::uuid, e.actor_id) as actor_id, e.at, e.position,
      o.name as outcome, o.leaves_message as message,
      coalesce(f.after ->> 'countsAs', o.counts_as) = 'conversation' as reached,
      exists (
        select
        from effects b
          join meetings m on m.id = b.entity_id and m.status <> 'cancelled'
        where b.event_id = e.id and b.kind = 'bookMeeting'
      ) as meeting
    from events e
      join outcomes o on o.id = (e.payload ->> 'outcomeId')::uuid
      left join lateral (
        select after
        from effects
        where event_id = e.id and kind = 'recordTouch'
        order by seq
        limit 1
      ) f on true
    where e.kind = 'callLogged'
      and e.payload ->> 'blockId' = ($1::uuid)::text
      and not exists (select from events u where u.kind = 'undone' and u.payload ->> 'targetId' = e.id::text)
  )
`

interface PersonRow extends Omit<CallsOfOne, 'skipped'> {
  conversations: number
  meetings: number
  prospectId: Id
  name: string
  company: string | null
  takenBy: Id | null
  /** The other dialer that has them; null for none. */
  dialer: string | null
  /** When they answered while no caller was free, until they are called. */
  answeredAt: Instant | null
  /** Taken by a caller who has given no sign of life for a while: others may take them. */
  stale: boolean
  skippedWhy: string | null
  lastCaller: Id | null
  lastAt: Instant | null
}

const ORDERS: Readonly<Record<BlockSort, string>> = {
  list: 'b.position, b.prospect_id',
  score: 'p.score desc, b.position, b.prospect_id',
  untried: 'p.last_touch_at asc nulls first, b.position, b.prospect_id',
  // By the hour it is (work.ts); where nothing was learned yet, as they were added.
  likely: 'b.position, b.prospect_id',
}

/** Someone in a block, as far as they are. */
export interface BlockPerson extends PersonRow {
  bead: Bead
}

/** Everyone in a block in the order of calling, with how far they are in its pass. */
export async function peopleOf(client: Db, blockId: Id, sort: BlockSort, pass: number): Promise<BlockPerson[]> {
  const { rows } = await client.query<PersonRow>({
    name: `block-people-${sort}`,
    text: sql`
      with ${CALLS_OF_BLOCK},
      called as (
        select
          prospect_id, count(*)::int as calls, count(*) filter (where reached)::int as conversations,
          count(*) filter (where meeting)::int as meetings, bool_or(reached) as reached, bool_or(message) as message,
          bool_or(meeting) as meeting, (array_agg(actor_id order by position desc))[1] as caller, max(at) as at
        from calls
        group by 1
      )
      select
        b.prospect_id as "prospectId", btrim(p.first_name || ' ' || p.last_name) as name, c.name as company,
        b.taken_by as "takenBy", ms(b.answered_at) as "answeredAt",
        x.dialer,
        coalesce(b.taken_at < now() - ${HOLDS}, false) as stale,
        b.skipped_why as "skippedWhy", coalesce(k.calls, 0) as calls, coalesce(k.conversations, 0) as conversations,
        coalesce(k.meetings, 0) as meetings, coalesce(k.reached, false) as reached,
        coalesce(k.message, false) as message, coalesce(k.meeting, false) as meeting, k.caller as "lastCaller",
        ms(k.at) as "lastAt"
      from call_block_people b
        join prospects p on p.id = b.prospect_id
        left join companies c on c.id = p.company_id
        left join called k on k.prospect_id = b.prospect_id
        left join call_exports x on x.id = b.export_id
      where b.block_id = $1 and (b.removed_at is null or k.calls > 0)
      order by ${ORDERS[sort]}
    `,
    values: [blockId],
  })
  return rows.map((row) => {
    const one: CallsOfOne = { ...row, skipped: row.skippedWhy !== null }
    const open = isToCall(one, pass)
    const inHand = row.takenBy !== null && !row.stale && open
    return {
      ...row,
      bead: {
        prospectId: row.prospectId,
        name: row.name,
        state: stateOf(one),
        callerId: inHand ? row.takenBy : row.lastCaller,
        inHand,
        dialer: open ? row.dialer : null,
        open,
      },
    }
  })
}

/** The beads in the order in which they hang: those called by when, then those still to call as they come. */
export function inOrderOfCalls(people: readonly BlockPerson[]): Bead[] {
  const called = people.filter(({ lastAt }) => lastAt !== null).sort((a, b) => a.lastAt! - b.lastAt!)
  return [...called, ...people.filter(({ lastAt }) => lastAt === null)].map(({ bead }) => bead)
}

/** What is looked at before someone is put into a block or called in it. */
export interface CandidateRow extends Candidate, Place {
  id: Id
  name: string
  phones: BlockPhone[]
  /** Their due call, which an outcome answers. */
  taskId: Id | null
  reached: boolean
  /** The name of another open block they are in. */
  otherBlock: string | null
}

/** People as candidates of a block, in the order given. */
export async function readCandidates(client: Db, ids: readonly Id[], blockId: Id | null): Promise<CandidateRow[]> {
  const { rows } = await client.query<CandidateRow>({
    name: 'block-candidates',
    text: sql`
      select
        p.id, btrim(p.first_name || ' ' || p.last_name) as name, p.merged_into is not null as merged,
        p.stop_call as "stopCall", p.status, s.kind as "stageKind", c.status as "companyStatus", p.attempts,
        p.time_zone as "timeZone", p.country, p.region, p.time_zone_from as "timeZoneFrom",
        p.conversations > 0 as reached,
        (
          select coalesce(
            json_agg(
              json_build_object('id', n.id, 'kind', n.kind, 'status', n.status, 'tags', n.tags)
              order by n.status <> 'correct', n.position
            ), '[]'
          )
          from phones n
          where n.prospect_id = p.id
        ) as phones,
        (
          select t.id
          from tasks t
          where t.prospect_id = p.id and t.status = 'open' and t.due_at <= world_now()
            and t.kind in ('call', 'call_back', 'first_contact', 'follow_up')
          order by t.priority, t.due_at, t.id
          limit 1
        ) as "taskId",
        (
          select o.name
          from call_block_people q
            join call_blocks o on o.id = q.block_id and o.closed_at is null
          where q.prospect_id = p.id and q.removed_at is null and q.skipped_at is null
            and q.block_id is distinct from $2
            and not exists (
              select
              from events e
              where e.payload ->> 'blockId' = q.block_id::text and e.prospect_id = p.id and e.kind = 'callLogged'
            )
          limit 1
        ) as "otherBlock"
      from unnest($1::uuid[]) with ordinality as u(id, place)
        join prospects p on p.id = u.id
        join stages s on s.id = p.stage_id
        left join companies c on c.id = p.company_id
      order by u.place
    `,
    values: [ids, blockId],
  })
  return rows
}
