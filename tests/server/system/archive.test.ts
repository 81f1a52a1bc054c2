import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { beforeAll, expect, it } from 'vitest'
import { closePool } from '../../../server/db/pool'
import { addPeople, rows, startWorld } from '../../fixtures/people'
import { sql } from '../../../server/db/sql'

beforeAll(() => startWorld())
const script = (name: string, ...args: string[]) =>
  execFileSync(process.execPath, [`scripts/${name}.mjs`, ...args], {
    encoding: 'utf8',
    stdio: ['ignore', 'pipe', 'pipe'],
  })

it('a backup put back is what there was, and what came after is gone', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'uphill-'))
  const file = join(folder, 'world.backup')
  await addPeople(25, null)
  const before = await rows(sql`select id, first_name, stage_id from prospects order by id`)
  expect(script('backup', file)).toContain('Backed up to')
  await addPeople(5, null, 'Later Dairy')
  await closePool()
  expect(script('restore', file)).toContain('Restored from')
  expect(await rows(sql`select id, first_name, stage_id from prospects order by id`)).toEqual(before)
  await expect(rows(sql`delete from events`)).rejects.toThrow('append only')
  // Only its owner may read it.
  expect(statSync(file).mode & 0o077).toBe(0)
  // What was there is kept beside.
  const [oldDatabase] = await rows<{ datname: string }>(
    sql`
      select datname
      from pg_database
      where datname like current_database() || '_before_%'
    `,
  )
  expect(oldDatabase).toBeDefined()
  await rows(`drop database "${oldDatabase!.datname}"`)
  expect(() => script('restore', join(folder, 'nothing'))).toThrow(/There is no file/)
  expect(() => script('restore', 'package.json')).toThrow(/is no backup of Uphill/)
  rmSync(folder, { recursive: true })
})

it('a damaged backup changes nothing', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'uphill-'))
  const file = join(folder, 'world.backup')
  script('backup', file)
  const whole = readFileSync(file)
  const before = await rows(sql`select id from prospects order by id`)
  await closePool()
  const damaged = join(folder, 'damaged.backup')
  const bytes = Buffer.from(whole)
  // A stretch in the middle of the data: the list of contents is still readable.
  bytes.fill(0x41, Math.floor(bytes.length * 0.6), Math.floor(bytes.length * 0.6) + 4_000)
  for (const [name, content] of [
    ['damaged', bytes],
    ['cut off', whole.subarray(0, Math.floor(whole.length * 0.7))],
  ] as const) {
    writeFileSync(damaged, content)
    expect(() => script('restore', damaged), name).toThrow(/The database is as it was/)
    expect(await rows(sql`select id from prospects order by id`)).toEqual(before)
    await closePool()
  }
  expect(
    await rows(sql`
    select datname
    from pg_database
    where datname like current_database() || '_restoring_%'
  `),
  ).toEqual([])
  rmSync(folder, { recursive: true })
})
