import { randomUUID } from 'node:crypto'
import { spawn } from 'node:child_process'
import { createInterface } from 'node:readline'
import nodemailer from 'nodemailer'
import { sendDueMail } from '../server/channels/mail/dispatch'
import { smtpChannel } from '../server/channels/mail/transport'
import { db } from '../server/db/pool'
import { MAIL_LOOPS } from '../server/jobs/worker'
import { median, time, type Measured } from './measure'
import { addCrowd, addUser, freshWorld } from './world'
import { firstRow, sql } from '../server/db/sql'

const MAILS = 5_000
const SENDERS = 20
const CONNECTIONS = 8

/** An SMTP server that takes everything and keeps nothing, in a process of its own. */
async function sink(): Promise<{ port: number; end(): void }> {
  const program = `import { SMTPServer } from 'smtp-server'
    const server = new SMTPServer({ disabledCommands: ['AUTH', 'STARTTLS'], logger: false, onData(stream, session, done) { stream.resume(); stream.on('end', () => done()) } })
    server.listen(0, '127.0.0.1', () => console.log(server.server.address().port))`
  const child = spawn(process.execPath, ['--input-type=module', '-e', program], {
    stdio: ['ignore', 'pipe', 'inherit'],
  })
  for await (const line of createInterface(child.stdout)) {
    return { port: Number(line), end: () => child.kill('SIGKILL') }
  }
  throw new Error('The sink did not start')
}

async function queueMails(): Promise<void> {
  await db().query('truncate tasks, touches, email_messages, enrollments, scheduled_actions cascade')
  const step = await firstRow(
    db().query<{ id: string; cadence_id: string }>(sql`select id, cadence_id from cadence_steps where position = 0`),
  )
  await db().query(
    sql`
      with e as (
        insert into enrollments (id, prospect_id, cadence_id, step_id, status, started_at)
        select gen_random_uuid(), id, $2, $1, 'active', world_now()
        from prospects
        returning *
      ),
      m as (
        insert into email_messages (id, prospect_id, kind, enrollment_id, step_id, email_address_id, sender_id, status, send_at)
        select gen_random_uuid(), e.prospect_id, 'step', e.id, e.step_id, a.id, p.owner_id, 'queued', world_now()
        from e
          join email_addresses a on a.prospect_id = e.prospect_id
          join prospects p on p.id = e.prospect_id
        returning *
      )
      insert into scheduled_actions (ref_id, kind, at, prospect_id)
      select id, 'email', send_at, prospect_id
      from m
    `,
    [step!.id, step!.cadence_id],
  )
  await db().query('vacuum analyze')
}

/**
 * 5,000 due emails of many senders with spacing off, against bare nodemailer to the same sink over as many connections.
 */
export async function measureMail(): Promise<Measured> {
  const world = await freshWorld('bench_mail')
  const senders = await Promise.all(Array.from({ length: SENDERS }, (_, n) => addUser('rep', `Sender ${n}`)))
  await addCrowd(MAILS, senders[0]!.id)
  await db().query(
    sql`
      update prospects p
      set owner_id = ($1::uuid[])[1 + n % ${SENDERS}]
      from (select id, row_number() over () as n from prospects) r
      where r.id = p.id
    `,
    [senders.map((sender) => sender.id)],
  )
  const cadenceId = randomUUID()
  const body =
    'Hello {{ first_name | default: "there" }},\n\nwhen an aging room drifts two degrees overnight, most teams find out at the next walk-round.\n\n{{ sender_first_name }}'
  await db().query(
    sql`
      insert into cadences (id, name, status, created_at)
      values ($1, 'Bench', 'active', world_now())
    `,
    [cadenceId],
  )
  await db().query(
    sql`
      insert into cadence_steps (id, cadence_id, position, kind, wait_amount, wait_unit, name, subject, body)
      values
        ($1, $3, 0, 'email', 0, 'hours', 'One', 'The night it drifted', $4),
        ($2, $3, 1, 'call', 2, 'business_days', 'Two', '', '')
    `,
    [randomUUID(), randomUUID(), cadenceId, body],
  )
  await db().query(sql`update team set playbook_version = playbook_version + 1`)
  const { port, end } = await sink()
  const ours: number[] = []
  const theirs: number[] = []
  try {
    for (let round = 0; round < 3; round++) {
      const transport = nodemailer.createTransport({
        host: '127.0.0.1',
        port,
        pool: true,
        maxConnections: CONNECTIONS,
        maxMessages: 500,
        ignoreTLS: true,
      })
      const html = `<p>${body.replaceAll('\n', '<br>')}</p><img src="http://127.0.0.1:4100/o/x" width="1" height="1" alt="">`
      theirs.push(
        await time(() =>
          Promise.all(
            Array.from({ length: MAILS }, (_, n) =>
              transport.sendMail({
                from: `sender${n % SENDERS}@bench.example`,
                to: `p${n}@crowd.example`,
                subject: 'The night it drifted',
                text: body,
                html,
              }),
            ),
          ),
        ),
      )
      transport.close()
      await queueMails()
      const channel = smtpChannel(`smtp://127.0.0.1:${port}`, null, CONNECTIONS)
      const loop = async () => {
        for (let left = 1; left;) left = await sendDueMail(channel, { id: 'bench' })
      }
      ours.push(await time(() => Promise.all(Array.from({ length: MAIL_LOOPS }, loop))))
      channel.close()
      const sent = await firstRow(
        db().query<{ count: number }>(sql`select count(*) as count from email_messages where status = 'sent'`),
      )
      if (sent!.count !== MAILS) throw new Error(`${sent!.count} were sent`)
    }
  } finally {
    end()
    await world.leave()
  }
  return {
    what: `Send ${MAILS.toLocaleString('en-US')} due emails of ${SENDERS} senders`,
    baseline: 'bare nodemailer to the same sink',
    ours: median(ours),
    theirs: median(theirs),
    unit: 'ms',
    ratio: median(ours) / median(theirs),
    atMost: 1.6,
  }
}
