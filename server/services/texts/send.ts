import { explain } from '#core/engine/explain'
import { MOST_PARTS, textLength } from '#core/text/textMessage'
import type { Id } from '#core/instant'
import type { Brief } from '#shared/api/desk/desk'
import { db, type Db } from '../../db/pool'
import { sql } from '../../db/sql'
import { recordEvents } from '../../engine/recordEvents'
import { env } from '../../environment'
import { mustSee } from '../access/access'
import { Refusal, refusedBy } from '../access/errors'
import { readerOf, type Viewer } from '../access/viewer'
import { touchGoals } from '../lists/touchGoals'

/** Queues a text that is written down already. */
export async function queueText(client: Db, id: Id): Promise<void> {
  await client.query(
    sql`
      select graphile_worker.add_job(
        'sendText', json_build_object('id', $1::uuid), job_key => 'text ' || $1::text, max_attempts => 8
      )
    `,
    [id],
  )
}

/** Sends a text by hand. It leaves at once; whether it may is asked again when it does. */
export async function writeText(
  viewer: Viewer,
  prospectId: Id,
  text: { id: Id; phoneId: Id; body: string; taskId: Id | null; agreed: boolean },
): Promise<{ summary: string }> {
  await mustSee(viewer, prospectId)
  if (!env().textGateway) throw new Refusal('refused', 'No gateway for texts is connected: send it from your phone')
  const { parts } = textLength(text.body)
  if (parts > MOST_PARTS) {
    const message = `Too long: ${parts} messages, at most ${MOST_PARTS}`
    throw new Refusal('invalid', message, [{ field: 'body', message }])
  }
  const {
    results: [done],
    before,
    after,
    playbook,
  } = await recordEvents(
    [
      {
        id: text.id,
        kind: 'textWritten',
        prospectId,
        actorId: viewer.id,
        causedByEventId: null,
        messageId: text.id,
        phoneId: text.phoneId,
        taskId: text.taskId,
        agreed: text.agreed,
      },
    ],
    {
      touchGoals: (ids) => touchGoals(viewer, ids),
      alsoWrite: async (client, { results: [result] }) => {
        if (result!.problems.length) throw refusedBy(result!.problems)
        await client.query(
          sql`
            insert into text_messages (id, prospect_id, phone_id, number, direction, body, status, user_id, at)
            select $1, $2, n.id, n.number, 'out', $4, 'queued', $5, world_now()
            from phones n
            where n.id = $3
          `,
          [text.id, prospectId, text.phoneId, text.body, viewer.id],
        )
        await queueText(client, text.id)
      },
    },
  )
  return { summary: explain(done!.effects, prospectId, before, after, playbook, { ...readerOf(viewer, before.now) }) }
}

/** The text messages with someone, the newest first. */
export async function textsOf(prospectId: Id): Promise<Brief['texts']> {
  const { rows } = await db().query<Brief['texts'][number]>(
    sql`
      select id, direction, ms(at) as at, body, status, error, phone_id as "phoneId"
      from text_messages
      where prospect_id = $1
      order by at desc, id
      limit 30
    `,
    [prospectId],
  )
  return rows
}
