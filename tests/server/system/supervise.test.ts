import { spawn, type ChildProcess } from 'node:child_process'
import { readdirSync, readFileSync } from 'node:fs'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { rows, startWorld } from '../../fixtures/people'
import { freePort, until } from '../../fixtures/programs'
import { sql } from '../../../server/db/sql'

let started: ChildProcess
let url: string
let said = ''

beforeAll(async () => {
  await startWorld()
  const port = await freePort()
  url = `http://127.0.0.1:${port}`
  started = spawn(process.execPath, ['scripts/start.mjs'], {
    env: {
      ...process.env,
      VITEST: '',
      PORT: String(port),
      UPHILL_URL: url,
      UPHILL_SECRET: 'kjw8dk2ls9fj3nvb7qpx0zmt4ryehgua',
      SMTP_URL: 'smtp://127.0.0.1:1',
      MAIL_IN_PORT: String(await freePort()),
    },
    stdio: ['ignore', 'pipe', 'pipe'],
  })
  for (const stream of [started.stdout!, started.stderr!]) {
    stream.on('data', (text: Buffer) => {
      said += String(text)
    })
  }
}, 180_000)
afterAll(() => {
  started.kill('SIGKILL')
})

const health = () =>
  fetch(`${url}/api/health`).then(
    async (response) => (await response.json()) as { status: string; workers: number },
    () => null,
  )
const workerPid = async () =>
  (
    await rows<{ process_id: number }>(
      sql`
        select w.process_id
        from worker_pools w
        where w.ended_at is null
          and exists (
            select
            from pg_locks l
            where l.locktype = 'advisory' and l.classid = 7101 and l.objid = w.id and l.granted
          )
      `,
    )
  )[0]?.process_id ?? null
const childOf = (part: string) => {
  const read = (pid: string, file: string) => {
    try {
      return readFileSync(`/proc/${pid}/${file}`, 'utf8')
    } catch {
      return ''
    }
  }
  const pid = readdirSync('/proc').find(
    (name) =>
      /^\d+$/.test(name) &&
      read(name, 'stat').split(') ')[1]?.split(' ')[1] === String(started.pid) &&
      read(name, 'cmdline').includes(part),
  )
  return pid ? Number(pid) : null
}

it('what npm start runs comes back after it was killed; one does not end the other', async () => {
  expect(await until(health, (seen) => seen?.status === 'ready', 120_000)).toMatchObject({
    status: 'ready',
    workers: 1,
  })
  const first = await workerPid()
  process.kill(first!, 'SIGKILL')
  // The pages go on answering meanwhile.
  expect(await health()).not.toBeNull()
  const second = await until(workerPid, (pid) => pid !== null && pid !== first, 60_000)
  expect(second).not.toBe(first)
  const web = childOf('server/index.mjs')
  process.kill(web!, 'SIGKILL')
  expect(
    await until(
      async () => childOf('server/index.mjs'),
      (pid) => pid !== null && pid !== web,
      60_000,
    ),
  ).not.toBe(web)
  expect(await until(health, (seen) => seen !== null, 60_000)).toMatchObject({ workers: 1 })
  expect(await workerPid()).toBe(second)
  expect(said).toContain('The worker program ended')
  // What it logs are lines of JSON.
  const line = said.split('\n').find((one) => one.includes('The worker has started'))!
  expect(JSON.parse(line)).toMatchObject({ level: 'info', msg: 'The worker has started' })
  started.kill('SIGTERM')
  await until(
    async () => started.exitCode,
    (code) => code !== null,
  )
  expect(started.exitCode).toBe(0)
}, 240_000)
