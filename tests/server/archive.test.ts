import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { beforeAll, expect, it } from 'vitest'
import { closePool } from '../../server/db/pool'
import { addPeople, rows, startWorld } from '../world/people'

beforeAll(() => startWorld())
const script = (name: string, ...args: string[]) => execFileSync(process.execPath, [`scripts/${name}.mjs`, ...args], { encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'] })

it('a backup put back is what there was, and what came after is gone', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'uphill-'))
  const file = join(folder, 'world.backup')
  await addPeople(25, null)
  const before = await rows('select id, first_name, stage_id from prospects order by id')
  expect(script('backup', file)).toContain('Backed up to')
  await addPeople(5, null, 'Later Dairy')
  await closePool()
  expect(script('restore', file)).toContain('Restored from')
  expect(await rows('select id, first_name, stage_id from prospects order by id')).toEqual(before)
  await expect(rows('delete from happenings')).rejects.toThrow('append only')
  expect(() => script('restore', join(folder, 'nothing'))).toThrow(/There is no file/)
  expect(() => script('restore', 'package.json')).toThrow(/is no backup of Uphill/)
  rmSync(folder, { recursive: true })
})
