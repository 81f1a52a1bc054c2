import { Webhook, WebhookVerificationError } from 'standardwebhooks'
import { v5 as derivedId } from 'uuid'
import { z } from 'zod'
import { keywordAnswer, textKeyword, type TextKeyword } from '#core/text/textKeywords'
import type { Id } from '#core/instant'
import { db, type Db } from '../../db/pool'
import { firstRow, sql } from '../../db/sql'
import { AlreadyRecorded, recordEvents, type NewEvent } from '../../engine/recordEvents'
import { env } from '../../environment'
import { log } from '../../log'
import { Refusal } from '../access/errors'
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
  const settings = env().textGateway
  if (!settings) throw new Refusal('not_found', 'There is no such address')
  let given: unknown
  try {
    given = new Webhook(settings.secret).verify(raw, headers)
  } catch (error) {
    const unsigned = error instanceof WebhookVerificationError
    throw new Refusal(unsigned ? 'not_allowed' : 'invalid', unsigned ? 'The signature is wrong' : 'This is not JSON')
  }
  const callback = callbackSchema.safeParse(given)
  if (!callback.success) throw new Refusal('invalid', 'This is no callback about a text')
  const { data } = callback
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

async function receiveText(callbackId: string, { from, text }: { from: string; text: string }): Promise<void> {
  const messageId = derivedId(callbackId, CALLBACKS)
  const owners = await ownersOf(from)
  const [owner] = owners
  const write = (client: Db) =>
    client.query(
      sql`
        insert into text_messages (id, prospect_id, phone_id, number, direction, body, status, at)
        values ($1, $2, $3, $4, 'in', $5, 'received', world_now())
        on conflict (id) do nothing
      `,
      [messageId, owner?.prospectId ?? null, owner?.phoneId ?? null, from, text],
    )
  const keyword = textKeyword(text)
  if (!owner) {
    await write(db())
    log.warn('A text came from a number that nobody here has')
    return
  }
  const about = { actorId: null, causedByEventId: null }
  if (!keyword) {
    const event = { ...about, id: messageId, kind: 'textReceived' as const, prospectId: owner.prospectId, messageId }
    return recordOnce([event], async (client) => void (await write(client)))
  }
  const known = await firstRow(
    db().query<{ consent: string }>(sql`select text_consent as consent from phones where id = $1`, [owner.phoneId]),
  )
  const to = { stop: 'stopped', start: 'given', help: null }[keyword] as 'stopped' | 'given' | null
  const events = to
    ? owners.map(({ prospectId, phoneId }) => ({
        ...about,
        id: derivedId(`${callbackId} ${phoneId}`, CALLBACKS),
        kind: 'textConsentSet' as const,
        prospectId,
        phoneId,
        to,
      }))
    : []
  const answers = to === null || known?.consent !== to
  const finish = async (client: Db) => {
    const { rowCount } = await write(client)
    if (rowCount && answers) await answerKeyword(client, keyword, callbackId, { ...owner, number: from })
  }
  if (events.length) await recordOnce(events, finish)
  else await finish(db())
}

/** Answers STOP, START or HELP by itself, once. */
async function answerKeyword(
  client: Db,
  keyword: TextKeyword,
  callbackId: string,
  to: Owner & { number: string },
): Promise<void> {
  const team = await firstRow(client.query<{ name: string }>(sql`select name from team`))
  const id = derivedId(`${callbackId} answer`, CALLBACKS)
  await client.query(
    sql`
      insert into text_messages (id, prospect_id, phone_id, number, direction, body, status, at)
      values ($1, $2, $3, $4, 'out', $5, 'queued', world_now())
    `,
    [id, to.prospectId, to.phoneId, to.number, keywordAnswer(keyword, team!.name)],
  )
  await queueText(client, id)
}
