import { randomUUID } from 'node:crypto'
import { beforeEach, describe, expect, it } from 'vitest'
import { addBlock } from '../../../shared/api/blocks/blocks'
import { addExport, addResults } from '../../../shared/api/blocks/otherDialers'
import { logOutcome } from '../../../shared/api/desk/desk'
import { prospectHistory } from '../../../shared/api/events/history'
import { db } from '../../../server/db/pool'
import { sql } from '../../../server/db/sql'
import { takeDueSteps } from '../../../server/engine/dueSteps'
import { recordEvents, type NewEvent } from '../../../server/engine/recordEvents'
import { enroll } from '../../../server/services/cadences/enrollments'
import { logResults } from '../../../server/services/otherDialers/logResults'
import { addCadence, addPeople, freeze, MONDAY, outcomeId, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'

const team = withTeam()
const HOUR = 3_600_000
beforeEach(() => freeze(MONDAY))

/** Someone in a cadence of an email and a call, whose email is being handed over. */
async function beingSent() {
  const { ids } = await addPeople(1, team.rep.id)
  const cadence = await addCadence([{ kind: 'email' }, { kind: 'call', amount: 2, unit: 'hours' }])
  await enroll(team.rep, cadence.id, { prospectIds: ids }, false)
  await takeDueSteps()
  const [message] = await rows<{ id: string }>(
    sql`update email_messages set status = 'sending' where prospect_id = $1 returning id`,
    [ids[0]],
  )
  return { id: ids[0]!, messageId: message!.id }
}
type EmailEvent = 'emailSent' | 'emailOpened' | 'emailReplied' | 'emailBounced'
/** Records what becomes known of an email, each on its own, in the order given. */
async function learn(of: { id: string; messageId: string }, ...kinds: EmailEvent[]) {
  for (const kind of kinds) {
    await recordEvents([
      {
        id: randomUUID(),
        kind,
        prospectId: of.id,
        messageId: of.messageId,
        actorId: null,
        causedByEventId: null,
      } as NewEvent,
    ])
  }
}
/** All that can be seen of a person in a cadence. */
async function standsAt(id: string) {
  const [row] = await rows(
    sql`
      select
        m.status as email, m.opened_at is not null as opened, a.status as address,
        e.status, e.exit, p.stage_id as stage,
        (
          select array_agg(t.kind order by t.kind)
          from tasks t
          where t.prospect_id = p.id and t.status = 'open'
        ) as tasks,
        (select array_agg(t.kind order by t.kind) from touches t where t.prospect_id = p.id) as touches
      from prospects p
        join email_messages m on m.prospect_id = p.id
        join email_addresses a on a.id = m.email_address_id
        join enrollments e on e.prospect_id = p.id
      where p.id = $1
    `,
    [id],
  )
  return row
}

describe('what becomes known in another order than it happened', () => {
  it.each<{ is: string; kinds: EmailEvent[] }>([
    { is: 'an answer and a look', kinds: ['emailSent', 'emailOpened', 'emailReplied'] },
    { is: 'a bounce', kinds: ['emailSent', 'emailBounced'] },
    { is: 'a look and a bounce', kinds: ['emailSent', 'emailOpened', 'emailBounced'] },
  ])('of an email leaves everyone where they would be: $is', async ({ kinds }) => {
    const inOrder = await beingSent()
    await learn(inOrder, ...kinds)
    const otherwise = await beingSent()
    await learn(otherwise, ...[...kinds].reverse())
    expect(await standsAt(otherwise.id)).toEqual(await standsAt(inOrder.id))
    expect(await standsAt(inOrder.id)).toMatchObject({ status: 'ended', email: 'sent' })
    // Known twice, nothing more follows.
    await learn(otherwise, ...kinds.filter((kind) => kind !== 'emailReplied'))
    expect(await standsAt(otherwise.id)).toEqual(await standsAt(inOrder.id))
  })

  it('of a call, made elsewhere before the last one, is in the activity and takes nothing back', async () => {
    const { ids } = await addPeople(1, team.rep.id)
    const blockId = randomUUID()
    await team.asManager.ok(addBlock, {
      body: { id: blockId, name: 'Cold rooms', campaign: '', callerIds: [team.rep.id], who: { prospectIds: ids } },
    })
    const exportId = randomUUID()
    await team.asManager.ok(addExport, {
      params: { id: blockId },
      body: { id: exportId, dialer: 'Northgate', callerNumbers: [], message: '' },
    })
    const [person] = await rows<{ id: string }>(sql`select id from call_export_people where export_id = $1`, [exportId])
    // The rep reaches them at the hour; that nobody answered before comes in only now.
    await team.asRep.ok(logOutcome, {
      params: { id: ids[0]! },
      body: {
        id: randomUUID(),
        outcomeId: await outcomeId('Not interested'),
        taskId: null,
        phoneId: null,
        call: 'elsewhere',
        details: { reason: 'Bad timing' },
        fingerprint: null,
      },
    })
    const stands = () =>
      rows<{ stage: string }>(sql`select stage_id as stage, status from prospects where id = $1`, [ids[0]])
    const before = await stands()
    await team.asManager.ok(addResults, {
      params: { id: exportId },
      body: {
        results: [{ id: person!.id, outcome: 'No answer', calledAt: new Date(MONDAY - HOUR).toISOString() }],
      },
    })
    await logResults(exportId)
    expect(await stands()).toEqual(before)
    const { entries } = await team.asRep.ok(prospectHistory, { params: { id: ids[0]! } })
    const late = entries.find(({ title }) => title === 'Call: No answer')!
    expect(late.body).toContain('Called by another dialer: ')
    const open = await db().query(
      sql`select kind from tasks where prospect_id = $1 and status = 'open' and due_at <= world_now()`,
      [ids[0]],
    )
    expect(open.rows).toEqual([])
  })
})
