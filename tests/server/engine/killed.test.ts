import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { db } from '../../../server/db/pool'
import { enroll } from '../../../server/services/cadences/enrollments'
import type { Viewer } from '../../../server/services/access/viewer'
import { seeded } from '../../../demo/seeded'
import { addCadence, addPeople, addUser, freeze, MONDAY, rows, startWorld } from '../../fixtures/people'
import { freePort, killAll, pause, start } from '../../fixtures/programs'
import { sql } from '../../../server/db/sql'

const PEOPLE = 500
let rep: Viewer
let mailbox: number
let smtp: number
let replies: number
let mail: ReturnType<typeof start>
beforeAll(async () => {
  await startWorld()
  rep = await addUser()
  await db().query(sql`update users set daily_email_cap = 5000 where id = $1`, [rep.id])
  ;[smtp, mailbox, replies] = await Promise.all([freePort(), freePort(), freePort()])
  mail = start('mail', { SMTP_PORT: String(smtp), HTTP_PORT: String(mailbox), MAIL_IN_PORT: String(replies) })
  for (let up = false; !up;) {
    up = await fetch(`http://127.0.0.1:${mailbox}/count`).then(
      (response) => response.ok,
      () => pause(50).then(() => false),
    )
  }
}, 120_000)
afterAll(() => killAll())

describe('a worker killed at random moments while 500 steps fall due', () => {
  it('sends none twice, loses none silently, and leaves each enrollment one step on', async () => {
    const random = seeded(Number(process.env.KILL_SEED ?? 20261123))
    const { ids } = await addPeople(PEOPLE, rep.id)
    await enroll(
      rep,
      (await addCadence([{ kind: 'email' }, { kind: 'call', amount: 2, unit: 'days' }])).id,
      { prospectIds: ids },
      false,
    )
    const env = {
      SMTP_URL: `smtp://127.0.0.1:${smtp}`,
      MAILBOX_URL: `http://127.0.0.1:${mailbox}`,
      MAIL_IN_PORT: String(replies),
    }
    let worker = start('worker', env)
    let kills = 0
    /** Enrollments that are not yet one step on, with their emails and what is due for them. */
    const unsettled = () =>
      rows(
        sql`
          select
            e.status, m.status as email, m.claimed_by is not null as claimed, m.attempts, m.last_error, m.send_at,
            a.kind, a.at, a.failures, a.crashes, a.last_error, a.set_aside_at, world_now() as now
          from enrollments e
            left join email_messages m on m.enrollment_id = e.id
            left join scheduled_actions a on a.ref_id in (e.id, m.id)
          where not (e.status = 'waiting' and e.due_at > world_now()) and e.status <> 'ended'
        `,
      )
    const until = Date.now() + 100_000
    let left: object[] = [{}]
    while (left.length && Date.now() < until) {
      // While there is work, the worker does not live long.
      await pause(kills < 12 ? 700 + random() * 900 : 1_500)
      if (kills < 12) {
        worker.kill('SIGKILL')
        kills++
        worker = start('worker', env)
      }
      left = await unsettled()
    }
    expect(left).toEqual([])
    expect(kills).toBeGreaterThan(1)
    const { letters, twice } = (await (await fetch(`http://127.0.0.1:${mailbox}/count`)).json()) as {
      letters: number
      twice: number
    }
    expect({ letters, twice }).toEqual({ letters: PEOPLE, twice: 0 })
    // None is held as uncertain here, since this server can tell what it took.
    expect(await rows(sql`select status, count(*)::int as count from email_messages group by 1`)).toEqual([
      { status: 'sent', count: PEOPLE },
    ])
    expect(
      await rows(
        sql`
          select s.position, e.status, count(*)::int as count
          from enrollments e
            join cadence_steps s on s.id = e.step_id
          group by 1, 2
        `,
      ),
    ).toEqual([{ position: 1, status: 'waiting', count: PEOPLE }])
    expect(await rows(sql`select count(*)::int as count from touches where kind = 'email'`)).toEqual([
      { count: PEOPLE },
    ])
  }, 150_000)
  it('is followed within seconds by another that takes up the work', async () => {
    const { ids } = await addPeople(20, rep.id)
    killAll(mail)
    await enroll(rep, (await addCadence([{ kind: 'task' }])).id, { prospectIds: ids }, false)
    start('worker', {
      SMTP_URL: `smtp://127.0.0.1:${smtp}`,
      MAILBOX_URL: `http://127.0.0.1:${mailbox}`,
      MAIL_IN_PORT: String(replies),
    })
    const open = async () =>
      (
        await rows<{ count: number }>(
          sql`
            select count(*) as count
            from tasks
            where prospect_id = any($1::uuid[]) and status = 'open'
          `,
          [ids],
        )
      )[0]!.count
    const started = Date.now()
    while ((await open()) < ids.length && Date.now() - started < 30_000) await pause(100)
    expect(await open()).toBe(ids.length)
    for (let pools = 2; pools > 1 && Date.now() - started < 30_000;) {
      await pause(200)
      pools = (await rows(sql`select 1 from worker_pools where ended_at is null`)).length
    }
    expect(await rows(sql`select 1 from worker_pools where ended_at is null`)).toHaveLength(1)
  })
})

describe('the demo’s clock', () => {
  it('moves forward with everything due on the way happening in order', async () => {
    process.env.UPHILL_DEMO = '1'
    const { rereadEnvironment } = await import('../../../server/environment')
    rereadEnvironment()
    const { clockState, moveClock } = await import('../../../server/services/system/clock')
    await freeze(MONDAY)
    const { ids } = await addPeople(1, rep.id)
    await enroll(
      rep,
      (
        await addCadence([
          { kind: 'email' },
          { kind: 'email', amount: 2, unit: 'hours' },
          { kind: 'task', amount: 1, unit: 'days' },
        ])
      ).id,
      { prospectIds: ids },
      false,
    )
    await db().query(sql`update clock set ahead = frozen_at - clock_timestamp(), frozen_at = null`)
    await moveClock('day')
    await expect(moveClock('hour')).rejects.toMatchObject({ code: 'conflict' })
    for (let tries = 0; (await clockState()).target !== null && tries < 200; tries++) await pause(100)
    const now = await clockState()
    expect(now).toMatchObject({ frozen: false, target: null })
    expect(now.now - MONDAY).toBeGreaterThanOrEqual(24 * 3_600_000)
    const sent = await rows<{ at: number }>(
      sql`select ms(sent_at) as at from email_messages where prospect_id = $1 order by 1`,
      [ids[0]],
    )
    expect(sent.map((one) => Math.round((one.at - MONDAY) / 3_600_000))).toEqual([0, 2])
    await moveClock('step')
    for (let tries = 0; (await clockState()).target !== null && tries < 200; tries++) await pause(100)
    for (
      let tries = 0;
      !(await rows(sql`select 1 from tasks where prospect_id = $1`, [ids[0]])).length && tries < 100;
      tries++
    ) {
      await pause(100)
    }
    expect(await rows(sql`select kind from tasks where prospect_id = $1`, [ids[0]])).toEqual([{ kind: 'task' }])
  })
})
