import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { from as copyFrom } from 'pg-copy-streams'
import { connectForCopy, db } from '../server/db/pool'
import { runImport as work } from '../server/imports/run'
import { checkImport, getImport, runImport, uploadImport } from '../server/services/imports/imports'
import { betweenRounds, time, type Measured, type Rounds } from './measure'
import { addUser, freshWorld } from './world'
import { firstRow, sql } from '../server/db/sql'

const ROWS = 100_000
const HEAD = 'First name,Last name,Job title,Company,Email,Phone,Country,State'
const row = (n: number) =>
  `Person${n},Number${n},Cellar master,Company ${n % 25_000},p${n}@c${n % 25_000}.example,(${201 + (n % 700)}) 555-${String(1000 + Math.floor(n / 700)).padStart(4, '0')},US,NY`

/** 100,000 rows parsed, validated, matched, logged, against a bare COPY of the same rows into one indexed table. */
export async function measureImport(): Promise<Measured> {
  const lines = Array.from({ length: ROWS }, (_, n) => row(n))
  const rounds: Rounds = { ours: [], theirs: [] }
  for (let round = 0; round < 5; round++) {
    const world = await freshWorld('bench_import')
    const manager = await addUser('manager', 'Bench')
    await db().query(
      sql`
        create table bare (
          first text, last text, title text, company text, email text primary key, phone text, country text,
          state text
        )
      `,
    )
    const bare = () =>
      time(async () => {
        const client = await connectForCopy()
        await pipeline(
          Readable.from([`${lines.join('\n')}\n`]),
          client.query(copyFrom('copy bare from stdin (format csv)')),
        )
        await client.end()
      })
    const before = await bare()
    rounds.ours.push(
      await time(async () => {
        const made = await uploadImport(
          manager,
          'bench.csv',
          Readable.from([Buffer.from(`${HEAD}\n${lines.join('\n')}\n`)]),
        )
        await checkImport(manager, made.id, { version: made.version, mapping: made.mapping, knownAction: 'skip' })
        await work(made.id)
        const checked = await getImport(manager, made.id)
        await runImport(manager, made.id, { version: checked.version, knownAction: 'skip' })
        await work(made.id)
      }),
    )
    await db().query('truncate bare')
    rounds.theirs.push((before + (await bare())) / 2)
    const count = await firstRow(db().query<{ count: number }>(sql`select count(*) as count from prospects`))
    if (count!.count !== ROWS) throw new Error(`${count!.count} people were imported`)
    await world.leave()
  }
  return {
    what: `Import ${ROWS.toLocaleString('en-US')} rows`,
    baseline: 'a bare COPY of them',
    ...betweenRounds(rounds),
    unit: 'ms',
    atMost: 12,
  }
}

const MILLION = 1_000_000
/** The most memory this process may take while it brings a million rows in, in bytes: 1 GB. */
const MOST_MEMORY = 1e9

/** A million rows, once: the time against a bare COPY, and the most memory the process took meanwhile. */
export async function measureMillionRows(): Promise<(Measured | string)[]> {
  const world = await freshWorld('bench_import')
  const manager = await addUser('manager', 'Bench')
  await db().query(
    sql`
      create table bare (
        first text, last text, title text, company text, email text primary key, phone text, country text,
        state text
      )
    `,
  )
  function* pieces(head: string): Generator<Buffer> {
    yield Buffer.from(head)
    for (let from = 0; from < MILLION; from += 5_000) {
      yield Buffer.from(`${Array.from({ length: 5_000 }, (_, n) => row(from + n)).join('\n')}\n`)
    }
  }
  const theirs = await time(async () => {
    const client = await connectForCopy()
    await pipeline(Readable.from(pieces('')), client.query(copyFrom('copy bare from stdin (format csv)')))
    await client.end()
  })
  let most = 0
  const watch = setInterval(() => {
    most = Math.max(most, process.memoryUsage().rss)
  }, 200)
  const ours = await time(async () => {
    const made = await uploadImport(manager, 'million.csv', Readable.from(pieces(`${HEAD}\n`)))
    await checkImport(manager, made.id, { version: made.version, mapping: made.mapping, knownAction: 'skip' })
    await work(made.id)
    const checked = await getImport(manager, made.id)
    await runImport(manager, made.id, { version: checked.version, knownAction: 'skip' })
    await work(made.id)
  })
  clearInterval(watch)
  const count = await firstRow(db().query<{ count: number }>(sql`select count(*) as count from prospects`))
  if (count!.count !== MILLION) throw new Error(`${count!.count} people were imported`)
  await world.leave()
  return [
    {
      what: 'Import 1,000,000 rows',
      baseline: 'a bare COPY of them',
      ours,
      theirs,
      unit: 'ms',
      ratio: ours / theirs,
      atMost: 12,
    },
    `Memory while 1,000,000 rows come in: ${(most / 1e6).toFixed(0)} MB at most; at most ${MOST_MEMORY / 1e6} MB: ${most <= MOST_MEMORY ? 'within' : 'OVER'}`,
  ]
}
