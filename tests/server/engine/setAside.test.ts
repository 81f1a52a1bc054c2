import { randomUUID } from 'node:crypto'
import { beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { sendDueMail } from '../../../server/channels/mail/dispatch'
import { IN_FLIGHT } from '../../../server/channels/mail/handOver'
import { recoverMail } from '../../../server/channels/mail/recover'
import type { Delivery, MailChannel } from '../../../server/channels/mail/transport'
import { db } from '../../../server/db/pool'
import { takeDueSteps } from '../../../server/engine/dueSteps'
import { noteCrash } from '../../../server/engine/dueWork'
import { NO_CONTENT } from '../../../server/services/templates/toDoContent'
import { getBulk, startBulk } from '../../../server/services/bulk/bulk'
import { runBulk } from '../../../server/services/bulk/runBulk'
import { enroll } from '../../../server/services/cadences/enrollments'
import {
  countProblems,
  discardProblem,
  listProblems,
  retryProblem,
  settleEmails,
} from '../../../server/services/system/problems'
import type { Viewer } from '../../../server/services/access/viewer'
import { addCadence, addPeople, addUser, freeze, MONDAY, rows, startWorld } from '../../fixtures/people'
import { pause, until } from '../../fixtures/programs'
import { sql } from '../../../server/db/sql'

/** A mail server that takes everything, and remembers whom it was for. */
function taking(
  deliver: (to: string) => Promise<Delivery> = async () => ({ status: 'sent' }),
): MailChannel & { taken: string[] } {
  const taken: string[] = []
  return {
    taken,
    async deliver(mail) {
      taken.push(mail.to as string)
      return deliver(mail.to as string)
    },
    wasTaken: async () => null,
    close() {},
  }
}

let rep: Viewer
beforeAll(async () => {
  await startWorld()
  rep = await addUser()
})
beforeEach(async () => {
  await db().query(sql`
    delete from scheduled_actions;
    update email_messages
    set status = 'cancelled'
    where status in ('queued', 'sending')
  `)
  await freeze(MONDAY)
})

async function enrolled(count: number, kind: 'email' | 'task' = 'email') {
  const { ids } = await addPeople(count, rep.id)
  const cadence = await addCadence([{ kind }, { kind: 'task', amount: 1, unit: 'days' }])
  await enroll(rep, cadence.id, { prospectIds: ids }, false)
  return { ids, cadence }
}
const minutesLater = (minutes: number) => freeze(MONDAY + minutes * 60_000)

describe('an email that cannot be composed', () => {
  it.each([
    ['an endless loop', '{% for i in (1..1000000000) %}x{% endfor %}', 'tag "for" not found'],
    ['a filter that fails', '{{ first_name | url_decode }}', 'undefined filter'],
    ['a filter without its argument', '{{ first_name | append }}', 'cannot be filled in'],
  ])('because of %s, is blocked with the reason; the others go', async (_, body, reason) => {
    const bad = await enrolled(1)
    // As it was saved before templates were checked.
    await db().query(sql`update cadence_steps set body = $2 where id = $1`, [bad.cadence.stepIds[0], body])
    const good = await enrolled(3)
    await takeDueSteps()
    const channel = taking()
    for (let left = 1; left;) left = await sendDueMail(channel, { id: 'test' })
    expect(channel.taken).toHaveLength(3)
    expect(await rows(sql`select status, last_error from email_messages where prospect_id = $1`, [bad.ids[0]])).toEqual(
      [{ status: 'held', last_error: expect.stringContaining(reason) as string }],
    )
    expect(await rows(sql`select kind from tasks where prospect_id = $1 and status = 'open'`, [bad.ids[0]])).toEqual([
      { kind: 'check_mail' },
    ])
    expect(
      await rows(sql`select distinct status from email_messages where prospect_id = any($1::uuid[])`, [good.ids]),
    ).toEqual([{ status: 'sent' }])
  })
  it('because its meeting is beyond every calendar, is blocked; the others go', async () => {
    const {
      ids: [id],
    } = await addPeople(1, rep.id)
    const [meeting, message] = [randomUUID(), randomUUID()]
    await db().query(
      sql`
        insert into meetings (id, prospect_id, user_id, title, start_at, end_at, time_zone, status)
        values ($1, $2, $3, 'Too far', '290000-01-01', '290000-01-02', 'America/New_York', 'booked')
      `,
      [meeting, id, rep.id],
    )
    await db().query(
      sql`
        insert into email_messages (id, prospect_id, kind, meeting_id, email_address_id, sender_id, status, send_at)
        select $1, $2, 'invitation', $3, e.id, $4, 'queued', world_now()
        from email_addresses e
        where e.prospect_id = $2
      `,
      [message, id, meeting, rep.id],
    )
    await db().query(
      sql`
      insert into scheduled_actions (ref_id, kind, at, prospect_id)
      values ($1, 'email', world_now(), $2)
    `,
      [message, id],
    )
    await enrolled(2)
    await takeDueSteps()
    const channel = taking()
    for (let left = 1; left;) left = await sendDueMail(channel, { id: 'test' })
    expect(channel.taken).toHaveLength(2)
    expect(await rows(sql`select status, last_error from email_messages where id = $1`, [message])).toEqual([
      { status: 'held', last_error: expect.stringContaining('cannot be composed') as string },
    ])
  })
})

describe('due work that fails', () => {
  it('stops none of the others, is tried again, and is set aside after the third failure with the reason', async () => {
    const { ids } = await enrolled(5, 'task')
    await db().query(sql`update prospects set time_zone = 'Nowhere/Nowhere' where id = $1`, [ids[2]])
    await db().query(
      "create function fail_for() returns trigger language plpgsql as $$ begin if new.time_zone = 'Nowhere/Nowhere' then raise exception 'This zone is unknown'; end if; return new; end $$",
    )
    await db().query('create trigger fail_for before insert on tasks for each row execute function fail_for()')
    try {
      for (const minutes of [0, 2, 5]) {
        await minutesLater(minutes)
        await takeDueSteps()
      }
    } finally {
      await db().query('drop trigger fail_for on tasks; drop function fail_for()')
    }
    expect(
      await rows(
        sql`
        select count(*)::int as count
        from tasks
        where prospect_id = any($1::uuid[]) and status = 'open'
      `,
        [ids],
      ),
    ).toEqual([{ count: 4 }])
    expect(
      await rows(
        sql`
        select failures, last_error, set_aside_at is not null as aside
        from scheduled_actions
        where prospect_id = $1
      `,
        [ids[2]],
      ),
    ).toEqual([{ failures: 3, last_error: 'This zone is unknown', aside: true }])
    // It is left alone from now on.
    await minutesLater(600)
    expect(await takeDueSteps()).toBe(0)
  })
  it('by ending the program, is done alone and set aside the third time that it ends it; what was beside it goes on', async () => {
    const { ids } = await enrolled(3, 'task')
    const refs = (
      await rows<{ ref_id: string }>(
        sql`select ref_id from scheduled_actions where prospect_id = any($1::uuid[]) order by ref_id`,
        [ids],
      )
    ).map((row) => row.ref_id)
    const crash = async (inHand: string[]) => {
      await db().query(
        sql`
        insert into work_in_hand (worker_id, loop, ref_ids)
        values ('gone', 'steps', $1)
      `,
        [inHand],
      )
      await noteCrash('gone')
    }
    await crash(refs)
    expect(
      await rows(sql`select distinct crashes from scheduled_actions where ref_id = any($1::uuid[])`, [refs]),
    ).toEqual([{ crashes: 1 }])
    await crash([refs[0]!])
    await crash([refs[0]!])
    expect(await rows(sql`select ref_id from scheduled_actions where set_aside_at is not null`)).toEqual([])
    await crash([refs[0]!])
    expect(await rows(sql`select ref_id from scheduled_actions where set_aside_at is not null`)).toEqual([
      { ref_id: refs[0] },
    ])
    // The others are done one at a time.
    expect(await takeDueSteps()).toBe(1)
    expect(await takeDueSteps()).toBe(1)
    expect(await takeDueSteps()).toBe(0)
  })
})

describe('a bulk action', () => {
  it.each([
    ['assign', 120],
    ['plan', 30],
  ] as const)('(%s) leaves out the one it fails for, with the reason, and does the others', async (kind, count) => {
    const manager = await addUser('manager', 'Maren Holloway')
    const { ids } = await addPeople(count, rep.id)
    const bad = ids[Math.floor(count / 2)]!
    const table = kind === 'assign' ? 'prospects' : 'tasks'
    const column = kind === 'assign' ? 'id' : 'prospect_id'
    await db().query(
      `create function fail_for() returns trigger language plpgsql as $$ begin if new.${column} = '${bad}' then raise exception 'This one cannot be changed'; end if; return new; end $$`,
    )
    await db().query(
      sql`
        create trigger fail_for before insert or update on ${table} for each row execute function fail_for()
      `,
    )
    const id = randomUUID()
    try {
      const action =
        kind === 'assign'
          ? { type: 'assign' as const, to: [manager.id] }
          : {
              type: 'plan' as const,
              ...NO_CONTENT,
              task: 'task' as const,
              title: 'Write',
              dueAt: MONDAY + 3_600_000,
              ownerId: null,
            }
      await startBulk(manager, { id, action, prospectIds: ids })
      await runBulk(id)
    } finally {
      await db().query(sql`drop trigger fail_for on ${table}; drop function fail_for()`)
    }
    expect(await getBulk(manager, id)).toMatchObject({
      status: 'done',
      done: count - 1,
      touches: count - 1,
      leftOut: [{ reason: 'Failed: This one cannot be changed', count: 1, people: [{ id: bad }] }],
    })
  })
})

describe('the page of problems', () => {
  it('lists what was set aside, runs it again once it is mended, or gives it up', async () => {
    const manager = await addUser('manager', 'Maren Holloway')
    await db().query(sql`delete from graphile_worker._private_jobs`)
    const { ids } = await enrolled(2, 'task')
    await db().query(sql`
      update scheduled_actions
      set set_aside_at = now(), last_error = 'This zone is unknown', failures = 3
    `)
    await db().query(
      sql`
        insert into incoming_email (id, message_ids, raw, set_aside_at, last_error)
        values ($1, $2, '', now(), 'Too large')
      `,
      [randomUUID(), [randomUUID()]],
    )
    await db().query(sql`select graphile_worker.add_job('rescore', max_attempts => 1)`)
    await db().query(sql`update graphile_worker._private_jobs set attempts = 1, last_error = 'No room'`)
    const { setAside } = await listProblems(manager)
    expect(setAside.map((one) => [one.kind, one.error]).sort()).toEqual([
      ['incoming', 'Too large'],
      ['job', 'No room'],
      ['step', 'This zone is unknown'],
      ['step', 'This zone is unknown'],
    ])
    expect(
      setAside
        .filter((one) => one.kind === 'step')
        .map((one) => one.person!.id)
        .sort(),
    ).toEqual([...ids].sort())
    expect((await listProblems(rep)).setAside).toEqual([])
    expect(await countProblems()).toBe(4)
    const [first, second] = setAside.filter((one) => one.kind === 'step')
    await retryProblem(first!)
    expect(await takeDueSteps()).toBe(1)
    await discardProblem(manager, second!)
    expect(await rows(sql`select exit from enrollments where id = $1`, [second!.id])).toEqual([{ exit: 'removed' }])
    await retryProblem(setAside.find((one) => one.kind === 'job')!)
    expect(await rows(sql`select attempts from graphile_worker.jobs`)).toEqual([{ attempts: 0 }])
    await discardProblem(
      manager,
      setAside.find((one) => one.kind === 'incoming')!,
    )
    expect(await countProblems()).toBe(0)
    await expect(retryProblem(first!)).rejects.toMatchObject({ code: 'not_found' })
    await db().query(sql`delete from graphile_worker._private_jobs`)
  })
  it('settles emails whose delivery is unknown together; those it may not send again stay, with the reason', async () => {
    const { ids } = await enrolled(3)
    await takeDueSteps()
    await sendDueMail(
      taking(async () => ({ status: 'unconfirmed', lastError: 'The connection was lost' })),
      { id: 'test' },
    )
    const { unknown, unknownCount } = await listProblems(rep)
    expect(unknownCount).toBe(3)
    await db().query(sql`update prospects set stop_email = true where id = $1`, [ids[0]])
    const result = await settleEmails(
      rep,
      unknown.map((one) => one.messageId),
      false,
    )
    expect(result).toMatchObject({ settled: 2, refused: [{ reason: 'Not sent: asked for no email' }] })
    const channel = taking()
    for (let left = 1; left;) left = await sendDueMail(channel, { id: 'test' })
    expect(channel.taken).toHaveLength(2)
    expect(await settleEmails(rep, [result.refused[0]!.messageId], true)).toEqual({ settled: 1, refused: [] })
    const { unknownCount: left } = await listProblems(rep)
    expect(left).toBe(0)
  })
})

describe('emails on their way', () => {
  it('are never more than a few at once, so that no more can be unknown', async () => {
    await enrolled(40)
    await takeDueSteps()
    let open: (() => void)[] = []
    const channel = taking(() => new Promise((resolve) => open.push(() => resolve({ status: 'sent' }))))
    const sending = sendDueMail(channel, { id: 'slow' })
    await until(
      async () => open.length,
      (count) => count === IN_FLIGHT,
    )
    await pause(200)
    expect(
      await rows(
        sql`
          select status, count(*)::int as count
          from email_messages
          where status in ('queued', 'sending')
          group by 1
          order by 1
        `,
      ),
    ).toEqual([
      { status: 'queued', count: 40 - IN_FLIGHT },
      { status: 'sending', count: IN_FLIGHT },
    ])
    // The worker ends here: what was not handed over goes back to the queue, the rest is unknown where nobody can tell.
    await recoverMail(taking(), 'slow')
    expect(await rows(sql`select count(*)::int as count from scheduled_actions where kind = 'email'`)).toEqual([
      { count: 40 - IN_FLIGHT },
    ])
    expect(await rows(sql`select count(*)::int as count from email_messages where status = 'unconfirmed'`)).toEqual([
      { count: IN_FLIGHT },
    ])
    for (const resolve of open) resolve()
    open = []
    await sending
    // What it had claimed is not its to send any more.
    expect(channel.taken).toHaveLength(IN_FLIGHT)
  })
  it('of a worker that may only have lost touch are left to it for the time a claim holds, and then found', async () => {
    await enrolled(2)
    await takeDueSteps()
    const channel = taking(() => new Promise(() => {}))
    void sendDueMail(channel, { id: 'out of touch' })
    await until(
      async () => channel.taken.length,
      (count) => count === 2,
    )
    await recoverMail(taking(), 'out of touch', false)
    expect(await rows(sql`select count(*)::int as count from email_messages where status = 'sending'`)).toEqual([
      { count: 2 },
    ])
    await db().query(sql`
      update email_messages
      set claimed_at = now() - interval '2 minutes'
      where status = 'sending'
    `)
    expect(await recoverMail(taking(), 'out of touch', false)).toBe(2)
  })
  it('are not begun by a worker that does not count as alive', async () => {
    await enrolled(3)
    await takeDueSteps()
    const channel = taking()
    await sendDueMail(channel, { id: 'test', isAlive: () => false })
    expect(channel.taken).toEqual([])
    expect(await rows(sql`select count(*)::int as count from scheduled_actions where kind = 'email'`)).toEqual([
      { count: 3 },
    ])
    for (let left = 1; left;) left = await sendDueMail(channel, { id: 'test' })
    expect(channel.taken).toHaveLength(3)
  })
})
