import type { z } from 'zod'
import { onlyCalls } from '#core/roles'
import type { Id } from '#core/instant'
import { showPhone } from '#core/text/phone'
import type { listIncomingCalls } from '#shared/api/desk/incoming'
import { incomingLine } from '../../channels/phone/dialer'
import { db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { notFound, Refusal } from '../access/errors'
import { mustSee } from '../access/access'
import type { Viewer } from '../access/viewer'
import { getTeam } from '../settings/settings'
import { endCall, peopleOf } from './receive'

type IncomingCall = z.output<typeof listIncomingCalls.response>['calls'][number]
type Row = Omit<IncomingCall, 'people' | 'shown'>

/**
 * The condition under which a call concerns a viewer: it rings for them or, where nobody knows the number, for everyone
 * but callers. $1 is the viewer, $2 whether they only call.
 */
const CONCERNS = '(c.user_id = $1 or (c.user_id is null and not $2))'

/**
 * What rings for the viewer, what they answered and have not logged yet, and missed calls of unknown numbers of the
 * last day. An answered call of a number that nobody has needs nothing once it is over.
 */
const LIST_SQL = sql`
  select
    c.id, c.number, c.status, c.user_id is null as "forEveryone", ms(coalesce(c.answered_at, c.rang_at)) as at,
    ms(now() - (world_now() - coalesce(c.answered_at, c.rang_at))) as since
  from incoming_calls c
  where (
      c.status = 'ringing'
        and ${CONCERNS}
        and c.created_at > now() - interval '2 minutes'
    )
    or (c.status = 'answered' and c.answered_by = $1 and c.created_at > now() - interval '4 hours')
    or (
      c.status = 'over'
        and c.seen_at is null
        and c.answered_by = $1
        and c.created_at > now() - interval '12 hours'
        and exists (select from phones n where n.number = c.number)
    )
    or (
      c.status = 'missed'
        and c.seen_at is null
        and ${CONCERNS}
        and c.created_at > now() - interval '1 day'
        and not exists (select from phones n where n.number = c.number)
    )
  order by c.created_at
  limit 5
`

/** Calls that concern the viewer now, with those who have their numbers, as far as the viewer may see them. */
export async function listIncoming(viewer: Viewer): Promise<{ calls: IncomingCall[] }> {
  const { rows } = await db().query<Row>({
    name: 'incoming-calls',
    text: LIST_SQL,
    values: [viewer.id, onlyCalls(viewer)],
  })
  if (!rows.length) return { calls: [] }
  const { country } = await getTeam()
  const calls = await Promise.all(
    rows.map(async (row) => ({
      ...row,
      shown: showPhone(row.number, country),
      people: row.number ? await seenOf(viewer, row.number) : [],
    })),
  )
  return { calls }
}

/** Those of a number whom the viewer may see. */
async function seenOf(viewer: Viewer, number: string) {
  const people = await peopleOf(number)
  const seen = await Promise.all(
    people.map(({ id }) =>
      mustSee(viewer, id).then(
        () => true,
        (error: unknown) => {
          if (error instanceof Refusal) return false
          throw error
        },
      ),
    ),
  )
  return people.filter((_, index) => seen[index]).map(({ id, name, company }) => ({ id, name, company }))
}

/** The line's name of a call that concerns the viewer; throws not_found for any other. */
async function refOf(viewer: Viewer, id: Id): Promise<string> {
  const row = await firstRow(
    db().query<{ ref: string }>(
      sql`
        select c.line_ref as ref
        from incoming_calls c
        where c.id = $3 and (${CONCERNS} or c.answered_by = $1)
      `,
      [viewer.id, onlyCalls(viewer), id],
    ),
  )
  if (!row) throw notFound('call')
  return row.ref
}

/**
 * The viewer answers a call that rings for them. Throws conflict where a colleague has answered it or the caller has
 * hung up. Answered again by the same user (the answer was lost), nothing changes.
 */
export async function answerIncoming(viewer: Viewer, id: Id): Promise<void> {
  const ref = await refOf(viewer, id)
  const taken = await firstRow(
    db().query<{ isNew: boolean }>(
      sql`
        with before as (select status from incoming_calls where id = $1 for update)
        update incoming_calls c
        set status = 'answered', answered_by = $2, answered_at = coalesce(c.answered_at, world_now())
        from before
        where c.id = $1 and (c.status = 'ringing' or (c.status = 'answered' and c.answered_by = $2))
        returning before.status = 'ringing' as "isNew"
      `,
      [id, viewer.id],
    ),
  )
  if (!taken) throw new Refusal('conflict', 'A colleague has answered, or the caller has hung up')
  if (!taken.isNew) return
  if (await incomingLine()?.answer(ref)) return
  // They hung up at this moment, or the exchange is down: nobody spoke to them.
  await db().query(
    sql`
      update incoming_calls
      set status = 'ringing', answered_by = null, answered_at = null
      where id = $1 and answered_by = $2
    `,
    [id, viewer.id],
  )
  await endCall(ref)
  throw new Refusal('conflict', 'The caller has hung up')
}

/**
 * Ends a call the viewer has answered, or declines one that rings for them alone: that one was missed. One that rings
 * for everyone is left to the others.
 */
export async function endIncoming(viewer: Viewer, id: Id): Promise<void> {
  const ref = await refOf(viewer, id)
  const forOthers = await firstRow(
    db().query(sql`select from incoming_calls where id = $1 and user_id is null and answered_by is distinct from $2`, [
      id,
      viewer.id,
    ]),
  )
  if (forOthers) throw new Refusal('refused', 'This call rings for everyone: someone else may answer it')
  await incomingLine()?.hangUp(ref)
  await endCall(ref)
}

/** A call that is over needs nothing any more. */
export async function markSeen(viewer: Viewer, id: Id): Promise<void> {
  await refOf(viewer, id)
  await db().query(
    sql`
      update incoming_calls
      set seen_at = coalesce(seen_at, world_now())
      where id = $1 and status in ('missed', 'over')
    `,
    [id],
  )
}
