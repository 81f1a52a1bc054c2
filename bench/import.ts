import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { from as copyFrom } from 'pg-copy-streams'
import { connectForCopy, db } from '../server/db/pool'
import { runImport as work } from '../server/imports/run'
import { checkImport, getImport, runImport, uploadImport } from '../server/services/imports'
import { median, time, type Measured } from './measure'
import { addUser, freshWorld } from './world'

const ROWS = 100_000
const HEAD = 'First name,Last name,Job title,Company,Email,Phone,Country,State'
const row = (n: number) => `Person${n},Number${n},Cellar master,Company ${n % 25_000},p${n}@c${n % 25_000}.example,(${201 + n % 700}) 555-${String(1000 + Math.floor(n / 700)).padStart(4, '0')},US,NY`

/** 100,000 rows parsed, validated, matched, journaled, against a bare COPY of the same rows into one indexed table. */
export async function measureImport(): Promise<Measured> {
  const lines = Array.from({ length: ROWS }, (_, n) => row(n))
  const ours: number[] = []
  const theirs: number[] = []
  for (let round = 0; round < 3; round++) {
    const world = await freshWorld('bench_import')
    const manager = await addUser('manager', 'Bench')
    await db().query('create table bare (first text, last text, title text, company text, email text primary key, phone text, country text, state text)')
    theirs.push(await time(async () => {
      const client = await connectForCopy()
      await pipeline(Readable.from([`${lines.join('\n')}\n`]), client.query(copyFrom('copy bare from stdin (format csv)')))
      await client.end()
    }))
    ours.push(await time(async () => {
      const made = await uploadImport(manager, 'bench.csv', Readable.from([Buffer.from(`${HEAD}\n${lines.join('\n')}\n`)]))
      await checkImport(manager, made.id, { version: made.version, mapping: made.mapping, knownAction: 'skip' })
      await work(made.id)
      const checked = await getImport(manager, made.id)
      await runImport(manager, made.id, { version: checked.version, knownAction: 'skip' })
      await work(made.id)
    }))
    const { rows: [count] } = await db().query<{ count: number }>('select count(*) as count from prospects')
    if (count!.count !== ROWS) throw new Error(`${count!.count} people were brought in`)
    await world.leave()
  }
  return { what: `Import ${ROWS.toLocaleString('en-US')} rows`, baseline: 'a bare COPY of them', ours: median(ours), theirs: median(theirs), unit: 'ms', ratio: median(ours) / median(theirs), atMost: 12 }
}
