import { spawn, spawnSync } from 'node:child_process'
import { chmodSync, cpSync, existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { createServer, type Server } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'

/** The commands as someone runs them: a process each, judged by what they print and how they end. */
interface Ended {
  code: number | null
  out: string
  err: string
}
function run(args: string[], env: Record<string, string> = {}, cwd = process.cwd()): Promise<Ended> {
  const { DATABASE_URL: _d, SMTP_URL: _s, UPHILL_SECRET: _k, UPHILL_URL: _u, PORT: _p, ...rest } = process.env
  return new Promise((resolve) => {
    const child = spawn(process.execPath, args, { cwd, env: { ...rest, ...env } })
    const ended: Ended = { code: null, out: '', err: '' }
    child.stdout.setEncoding('utf8').on('data', (text: string) => {
      ended.out += text
    })
    child.stderr.setEncoding('utf8').on('data', (text: string) => {
      ended.err += text
    })
    child.on('close', (code) => resolve({ ...ended, code }))
  })
}
const sentences = (ended: Ended) => ended.err.trim().split('\n')

const made: string[] = []
let busy: Server
let port: number
beforeAll(async () => {
  busy = createServer().listen(0, '127.0.0.1')
  await new Promise((resolve) => busy.once('listening', resolve))
  port = (busy.address() as { port: number }).port
})
afterAll(() => {
  busy.close()
  for (const folder of made) rmSync(folder, { recursive: true, force: true })
})

describe('npm run demo', () => {
  it('on a port that is in use says so in one sentence, with a way out', async () => {
    const ended = await run(['scripts/demo.mjs'], { PORT: String(port) })
    expect(ended.code).toBe(1)
    expect(sentences(ended)).toEqual([
      `Port ${port} is in use (it is needed for the pages). Stop what uses it, or start with PORT=${port + 100}.`,
    ])
  })
  it('looks at every port it needs, not only the first', async () => {
    const ended = await run(['scripts/demo.mjs'], { PORT: String(port - 26) })
    expect([ended.code, sentences(ended)[0]]).toEqual([
      1,
      expect.stringMatching(new RegExp(`^Port ${port} is in use \\(it is needed for the smtp\\)`)),
    ])
  })
  it.each(['80', 'abc', '70000', '4100.5', ''])('with PORT=%j says what a port is', async (given) => {
    const ended = await run(['scripts/demo.mjs'], { PORT: given })
    expect([ended.code, sentences(ended)]).toEqual([1, ['PORT is not a port number between 1024 and 65000.']])
  })
})

describe('npm start', () => {
  const whole = {
    DATABASE_URL: 'postgres://nobody:x@127.0.0.1:1/none',
    SMTP_URL: 'smtp://127.0.0.1:1',
    UPHILL_SECRET: 'kjw8dk2ls9fj3nvb7qpx0zmt4ryehgua',
    UPHILL_URL: 'https://uphill.example',
  }
  it('without its environment names everything that is missing, and starts nothing', async () => {
    const ended = await run(['scripts/start.mjs'])
    expect(ended.code).toBe(1)
    for (const name of Object.keys(whole)) expect(ended.err).toContain(`${name} is missing`)
    expect(ended.out).not.toContain('ready')
  }, 180_000)
  it('with a weak secret refuses', async () => {
    const ended = await run(['scripts/start.mjs'], { ...whole, UPHILL_SECRET: 'short' })
    expect([ended.code, ended.err]).toEqual([1, expect.stringContaining('UPHILL_SECRET is weak')])
  })
  it('on a port that is in use says so', async () => {
    const ended = await run(['scripts/start.mjs'], { ...whole, PORT: String(port) })
    expect([ended.code, sentences(ended)]).toEqual([1, [`Port ${port} is in use. Stop what uses it, or set PORT.`]])
  })
  it('with a database that is not there says that, without a stack', async () => {
    const ended = await run(['scripts/start.mjs'], { ...whole, PORT: String(port + 1) })
    expect(ended.code).toBe(1)
    expect(ended.err).toMatch(/database/i)
    expect(ended.err).not.toMatch(/\n\s+at /)
  })
})

/** A folder with the set-up scripts alone, as the root of a checkout: its cluster is its own. */
function checkout(): string {
  const folder = mkdtempSync(join(tmpdir(), 'uphill-'))
  made.push(folder)
  cpSync('scripts', join(folder, 'scripts'), { recursive: true })
  return folder
}
const script = (text: string) => ['--input-type=module', '-e', text]
const clusterIn = async (folder: string) => {
  const { out } = await run(
    script(`import { clusterFolder } from './scripts/database.mjs'; console.log(clusterFolder('demo'))`),
    {},
    folder,
  )
  made.push(join(out.trim(), '..'))
  return out.trim()
}
const startIn = (folder: string) =>
  run(
    script(
      `import { startCluster } from './scripts/database.mjs'; const cluster = await startCluster('demo', { noFsync: true }); console.log('started'); cluster.stop()`,
    ),
    {},
    folder,
  )

describe('the data folder', () => {
  it('that is there but holds no database is called broken, and left as it is', async () => {
    const folder = checkout()
    const cluster = await clusterIn(folder)
    mkdirSync(join(cluster, 'data'), { recursive: true })
    writeFileSync(join(cluster, 'data', 'notes.txt'), 'mine')
    const ended = await startIn(folder)
    expect([ended.code, sentences(ended)]).toEqual([
      1,
      [
        `The data folder ${cluster}/data is broken: it is there, but it holds no database. Remove it, or start with --fresh to make the world anew.`,
      ],
    ])
    expect(readFileSync(join(cluster, 'data', 'notes.txt'), 'utf8')).toBe('mine')
  })
  it('that lost a file PostgreSQL needs is said to, with PostgreSQL’s own reason; stopped, it starts again', async () => {
    const folder = checkout()
    const cluster = await clusterIn(folder)
    expect(await startIn(folder)).toMatchObject({ code: 0, out: expect.stringContaining('started') })
    expect(await startIn(folder)).toMatchObject({ code: 0, err: '' })
    rmSync(join(cluster, 'data', 'global', 'pg_control'))
    const ended = await startIn(folder)
    expect(ended.code).toBe(1)
    expect(sentences(ended)).toHaveLength(1)
    expect(ended.err).toMatch(
      /^PostgreSQL does not start on the data folder .*pg_control.* Start with --fresh to make the world anew\./,
    )
  })
  it('without its password file is called broken', async () => {
    const folder = checkout()
    const cluster = await clusterIn(folder)
    await startIn(folder)
    rmSync(join(cluster, 'password'))
    expect(await startIn(folder)).toMatchObject({
      code: 1,
      err: expect.stringMatching(/^The data folder .* is broken: its password file is missing\. Start with --fresh/),
    })
  })
  it.runIf(
    process.getuid?.() === 0 &&
      spawnSync('runuser', ['-u', 'nobody', '--', process.execPath, '--version']).status === 0,
  )('of a normal user lies in the checkout, and works the same', async () => {
    const folder = checkout()
    chmodSync(folder, 0o777)
    const done = spawnSync(
      'runuser',
      [
        '-u',
        'nobody',
        '--',
        process.execPath,
        ...script(
          `import { clusterFolder, startCluster } from './scripts/database.mjs'; const cluster = await startCluster('demo', { noFsync: true }); console.log(cluster.ensureDatabase('uphill'), cluster.ensureDatabase('uphill'), clusterFolder('demo')); cluster.stop()`,
        ),
      ],
      { cwd: folder, encoding: 'utf8', env: { ...process.env, HOME: folder } },
    )
    expect({ code: done.status, err: done.stderr }).toEqual({ code: 0, err: '' })
    expect(done.stdout.trim().split('\n').at(-1)).toBe(`true false ${join(folder, '.data', 'demo')}`)
    expect(existsSync(join(folder, '.data', 'demo', 'data', 'PG_VERSION'))).toBe(true)
  })
})

describe('the machine', () => {
  it('with too little disk space says how much is missing where', async () => {
    const ended = await run(
      script(
        `import { ensureSpace } from './scripts/prerequisites.mjs'; ensureSpace('/var/lib/uphill/nowhere/yet', 1e9)`,
      ),
    )
    expect([ended.code, sentences(ended)]).toEqual([
      1,
      [
        expect.stringMatching(
          /^The disk is full: \d+ MB are left at \/.*, 1000000000 MB are needed\. Make room and start again\.$/,
        ),
      ],
    ])
  })
  it('with room enough is left alone', async () => {
    expect(
      await run(script(`import { ensureSpace } from './scripts/prerequisites.mjs'; ensureSpace('/tmp', 1)`)),
    ).toEqual({
      code: 0,
      out: '',
      err: '',
    })
  })
})
