import { v5 as derivedId } from 'uuid'
import { z } from 'zod'
import { keywordAnswer, textKeyword, type TextKeyword } from '#core/text/textKeywords'
import type { Id } from '#core/instant'
import { db, transaction, type Db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { AlreadyRecorded, recordEvents, type NewEvent } from '../../engine/recordEvents'
import { env } from '../../environment'
import { notifyOfUnknownText } from '../notifications/notifications'
import { readCallback } from '../access/signedCallback'
import { failText } from './deliver'
import { queueText } from './send'

/** What the gateway calls back with (docs/text-gateway.md). */
const callbackSchema = z.discriminatedUnion('type', [
  z.object({ type: z.literal('text.delivered'), id: z.uuid() }),
  z.object({ type: z.literal('text.failed'), id: z.uuid(), error: z.string().max(500).default('Not delivered') }),
  z.object({
    type: z.literal('text.received'),
    from: z.string().regex(/^\+[1-9]\d{1,14}$/),
    text: z.string().max(5_000),
  }),
])

/** The namespace of the ids that are made of callbacks’ ids, so that one played twice is one. */
const CALLBACKS = '5d0f0b52-5b6c-4c6e-9a52-0c2f7c1f6d1e'

/**
 * Takes a callback of the gateway, signed as Standard Webhooks 1.0 says; one that is played again changes nothing.
 * Throws where the signature is wrong, the time is over, or it is none.
 */
export async function takeTextCallback(headers: Record<string, string>, raw: string): Promise<void> {
  const data = readCallback(env().textGateway?.secret, { headers, raw }, callbackSchema, 'text')
  if (data.type === 'text.failed') return failText(data.id, data.error)
  if (data.type === 'text.received') return receiveText(headers['webhook-id']!, data)
  await db().query(sql`update text_messages set status = 'delivered' where id = $1 and status in ('queued', 'sent')`, [
    data.id,
  ])
}

interface Owner {
  prospectId: Id
  phoneId: Id
}

/** Everyone who has a number, the one who was texted last first. */
async function ownersOf(number: string): Promise<Owner[]> {
  const { rows } = await db().query<Owner>(
    sql`
      select n.prospect_id as "prospectId", n.id as "phoneId"
      from phones n
        join prospects p on p.id = n.prospect_id and p.merged_into is null
      where n.number = $1
      order by (select max(m.at) from text_messages m where m.phone_id = n.id) desc nulls last, p.created_at desc, n.id
    `,
    [number],
  )
  return rows
}

/** Records what came in; gives whether it is new. */
async function recordOnce(events: NewEvent[], write: (client: Db) => Promise<void>): Promise<void> {
  try {
    await recordEvents(events, { alsoWrite: (client) => write(client) })
  } catch (error) {
    // Played again: it is there.
    if (!(error instanceof AlreadyRecorded)) throw error
  }
}

/** What a number says of texts by a word: nothing where it only asks for help. */
const SAYS = { stop: 'stopped', start: 'given', help: null } as const

async function receiveText(callbackId: string, { from, text }: { from: string; text: string }): Promise<void> {
  const messageId = derivedId(callbackId, CALLBACKS)
  const owners = await ownersOf(from)
  const [owner] = owners
  const keyword = textKeyword(text)
  const about = { actorId: null, causedByEventId: null }
  const write = async (client: Db) => {
    const { rowCount } = await client.query(
      sql`
        insert into text_messages (id, prospect_id, phone_id, number, direction, body, status, at)
        values ($1, $2, $3, $4, 'in', $5, 'received', world_now())
        on conflict (id) do nothing
      `,
      [messageId, owner?.prospectId ?? null, owner?.phoneId ?? null, from, text],
    )
    return rowCount === 1
  }
  if (keyword) {
    const to = SAYS[keyword]
    const events = (to ? owners : []).map(({ prospectId, phoneId }) => ({
      ...about,
      id: derivedId(`${callbackId} ${phoneId}`, CALLBACKS),
      kind: 'textConsentSet' as const,
      prospectId,
      phoneId,
      to: to!,
    }))
    const finish = async (client: Db) => {
      if (!(await write(client))) return
      const isNew = to === null || (await setStop(client, from, to === 'stopped'))
      if (isNew) await answerKeyword(client, keyword, callbackId, { ...owner, number: from })
    }
    return events.length ? recordOnce(events, finish) : transaction(finish)
  }
  if (!owner) {
    return transaction(async (client) => {
      if (await write(client)) await notifyOfUnknownText(client, messageId)
    })
  }
  const { prospectId, phoneId } = owner
  const event = { ...about, id: messageId, kind: 'textReceived' as const, prospectId, phoneId, messageId }
  return recordOnce([event], async (client) => void (await write(client)))
}

/** Notes that a number said STOP, or START; gives whether that is new. */
async function setStop(client: Db, number: string, on: boolean): Promise<boolean> {
  const { rowCount } = await client.query(
    on
      ? sql`insert into text_stops (number, at) values ($1, world_now()) on conflict do nothing`
      : sql`delete from text_stops where number = $1`,
    [number],
  )
  return rowCount === 1
}

/** Answers STOP, START or HELP by itself, once. */
async function answerKeyword(
  client: Db,
  keyword: TextKeyword,
  callbackId: string,
  to: Partial<Owner> & { number: string },
): Promise<void> {
  const team = await firstRow(client.query<{ name: string }>(sql`select name from team`))
  const id = derivedId(`${callbackId} answer`, CALLBACKS)
  await client.query(
    sql`
      insert into text_messages (id, prospect_id, phone_id, number, direction, body, status, at)
      values ($1, $2, $3, $4, 'out', $5, 'queued', world_now())
    `,
    [id, to.prospectId ?? null, to.phoneId ?? null, to.number, keywordAnswer(keyword, team!.name)],
  )
  await queueText(client, id)
}
