import { v5 as derivedId } from 'uuid'
import { z } from 'zod'
import type { Id } from '#core/instant'
import { db, type Db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { AlreadyRecorded, recordEvents } from '../../engine/recordEvents'
import { env } from '../../environment'
import { readCallback } from '../access/signedCallback'
import { lineAnswered, lineEnded, lineVoicemail } from '../lines/callbacks'
import { callChanged } from '../desk/calls'
import { recordingReady } from '../recordings/recordings'

/** The exchange's name of a call. */
const name = z.string().min(1).max(200)
/** What the exchange calls back with (docs/dialer.md). */
const callbackSchema = z.discriminatedUnion('type', [
  z.object({
    type: z.literal('call.incoming'),
    id: name,
    from: z.string().regex(/^\+[1-9]\d{1,14}$/),
  }),
  z.object({
    type: z.literal('call.ended'),
    id: name,
    reference: z.uuid().optional(),
    result: z
      .enum(['completed', 'abandoned', 'no_answer', 'busy', 'rejected', 'voicemail', 'not_in_service'])
      .optional(),
  }),
  z.object({ type: z.literal('call.changed'), id: name, reference: z.uuid() }),
  z.object({ type: z.literal('call.recorded'), id: name }),
  z.object({ type: z.literal('call.answered'), id: name, reference: z.uuid() }),
  z.object({ type: z.literal('call.voicemail'), id: name, reference: z.uuid() }),
])

/** The namespace of the ids that are made of the exchange's names of calls, so that one announced twice is one. */
const CALLS = '0f0e4c7c-0d3e-4c6b-8f25-3a9c4a9d5b11'

/** Takes a callback of the exchange; one that is played again changes nothing. Throws as `readCallback` does. */
export async function takeCallCallback(headers: Record<string, string>, raw: string): Promise<void> {
  const data = readCallback(env().lineSecret, { headers, raw }, callbackSchema, 'call')
  switch (data.type) {
    case 'call.incoming':
      return announce(data.id, data.from)
    case 'call.changed':
      return callChanged(data.reference)
    case 'call.recorded':
      return recordingReady(data.id)
    case 'call.answered':
      return lineAnswered(data.reference, data.id)
    case 'call.voicemail':
      return lineVoicemail(data.reference, data.id)
    case 'call.ended':
      if (data.reference && data.result) return lineEnded(data.reference, data.result)
      return endCall(data.id)
  }
}

/** For so long the one who called someone last is the one who is called back. */
const CALLED_LATELY = `interval '30 days'`

/**
 * Whom a call from a number rings for ($1): who called it last, else the owner of the person who has it; null for
 * everyone, where nobody here knows the number.
 */
const RINGS_FOR_SQL = sql`
  select coalesce(
    (
      select c.user_id
      from phones n
        join calls c on c.phone_id = n.id and c.started_at > world_now() - ${CALLED_LATELY}
        join users u on u.id = c.user_id and u.active
      where n.number = $1
      order by c.started_at desc
      limit 1
    ),
    (
      select p.owner_id
      from phones n
        join prospects p on p.id = n.prospect_id and p.merged_into is null
        join users u on u.id = p.owner_id and u.active
      where n.number = $1
      order by p.created_at desc
      limit 1
    )
  ) as "userId"
`

async function announce(ref: string, number: string): Promise<void> {
  const rings = await firstRow(db().query<{ userId: Id | null }>(RINGS_FOR_SQL, [number]))
  await db().query(
    sql`
      insert into incoming_calls (id, line_ref, number, user_id, rang_at)
      values ($1, $2, $3, $4, world_now())
      on conflict (line_ref) do nothing
    `,
    [derivedId(ref, CALLS), ref, number, rings?.userId ?? null],
  )
}

interface EndedCall {
  id: Id
  number: string
  userId: Id | null
  status: string
}

/** A call is over: one that still rang was missed. */
export async function endCall(ref: string): Promise<void> {
  const ended = await firstRow(
    db().query<EndedCall>(
      sql`
        update incoming_calls
        set status = case when status = 'ringing' then 'missed' else 'over' end, ended_at = world_now()
        where line_ref = $1 and status in ('ringing', 'answered')
        returning id, number, user_id as "userId", status
      `,
      [ref],
    ),
  )
  if (ended?.status === 'missed') await recordMissed(ended)
}

/** Records that a call was missed with the one person it is most likely of; nothing where nobody has the number. */
async function recordMissed({ id, number, userId }: { id: Id; number: string; userId: Id | null }): Promise<void> {
  const [person] = await peopleOf(number)
  if (!person) return
  try {
    await recordEvents([
      {
        id,
        kind: 'callMissed',
        prospectId: person.id,
        actorId: null,
        causedByEventId: null,
        phoneId: person.phoneId,
        rangFor: userId,
      },
    ])
  } catch (error) {
    // Announced twice: it is there.
    if (!(error instanceof AlreadyRecorded)) throw error
  }
}

export interface Caller {
  id: Id
  phoneId: Id
  name: string
  company: string | null
}

/** Everyone who has a number, the one who was called on it last first. */
export async function peopleOf(number: string, client: Db = db()): Promise<Caller[]> {
  const { rows } = await client.query<Caller>({
    name: 'people-of-number',
    text: sql`
      select
        p.id, n.id as "phoneId", btrim(p.first_name || ' ' || p.last_name) as name, o.name as company
      from phones n
        join prospects p on p.id = n.prospect_id and p.merged_into is null
        left join companies o on o.id = p.company_id
      where n.number = $1
      order by
        (select max(c.started_at) from calls c where c.phone_id = n.id) desc nulls last, p.created_at desc, n.id
      limit 5
    `,
    values: [number],
  })
  return rows
}

/** The longest a call rings, in seconds, even where the exchange forgets to say that it is over. */
const LONGEST_RING = 120

/** Ends calls that ring longer than any does: their end was never announced. */
export async function endForgottenCalls(): Promise<void> {
  const { rows } = await db().query<{ ref: string }>(
    sql`
      select line_ref as ref
      from incoming_calls
      where status = 'ringing' and created_at < now() - $1 * interval '1 second'
    `,
    [LONGEST_RING],
  )
  for (const { ref } of rows) await endCall(ref)
}
