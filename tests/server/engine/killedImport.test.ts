import { Readable } from 'node:stream'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { checkImport, getImport, runImport, uploadImport } from '../../../server/services/imports/imports'
import type { Viewer } from '../../../server/services/access/viewer'
import { addUser, rows, startWorld } from '../../fixtures/people'
import { freePort, killAll, pause, start, until } from '../../fixtures/programs'
import { sql } from '../../../server/db/sql'

const ROWS = 12_000
let manager: Viewer
let env: Record<string, string>

beforeAll(async () => {
  await startWorld()
  manager = await addUser('manager', 'Maren Holloway')
  env = { SMTP_URL: 'smtp://127.0.0.1:1', MAIL_IN_PORT: String(await freePort()) }
})
afterAll(() => killAll())

const people = async () => (await rows<{ count: number }>(sql`select count(*)::int as count from prospects`))[0]!.count
const status = async (id: string) => (await getImport(manager, id)).status

describe('an import whose worker is killed', () => {
  it('while it checks, and while it writes, brings in all or nothing, and is taken up by the next worker', async () => {
    const lines = Array.from(
      { length: ROWS },
      (_, n) => `Person${n},Number${n},p${n}@c${n % 900}.example,(${201 + (n % 700)}) 555-0${100 + (n % 100)}`,
    )
    const made = await uploadImport(
      manager,
      'many.csv',
      Readable.from([Buffer.from(`First name,Last name,Email,Phone\n${lines.join('\n')}\n`)]),
    )
    await checkImport(manager, made.id, { version: made.version, mapping: made.mapping, knownAction: 'skip' })
    let worker = start('worker', env)
    // In the middle of the check: rows have been staged, none is counted yet.
    await until(
      () =>
        rows(sql`select 1 from import_rows where import_id = $1 limit 1`, [made.id]).then(
          (found) => found.length || pause(1).then(() => 0),
        ),
      Boolean,
    )
    worker.kill('SIGKILL')
    expect(await people()).toBe(0)
    worker = start('worker', env)
    expect(
      await until(
        () => status(made.id),
        (now) => now === 'checked',
        60_000,
      ),
    ).toBe('checked')
    const checked = await getImport(manager, made.id)
    expect(checked.counts).toMatchObject({ rows: ROWS, invalid: 0, known: 0 })
    expect(
      (checked.counts as { fresh: number; merged: number }).fresh + (checked.counts as { merged: number }).merged,
    ).toBe(ROWS)
    await runImport(manager, made.id, { version: checked.version, knownAction: 'skip' })
    // In the middle of the writing: its transaction holds locks on the people.
    await until(
      () =>
        rows(
          sql`
            select 1
            from pg_locks l
              join pg_class c on c.oid = l.relation
            where c.relname = 'prospects' and l.mode = 'RowExclusiveLock'
          `,
        ).then((found) => found.length),
      Boolean,
    )
    worker.kill('SIGKILL')
    expect(await people()).toBe(0)
    expect(await status(made.id)).toBe('writing')
    start('worker', env)
    expect(
      await until(
        () => status(made.id),
        (now) => now === 'done',
        60_000,
      ),
    ).toBe('done')
    const { fresh } = checked.counts as { fresh: number }
    expect(await people()).toBe(fresh)
    expect(
      await rows(
        sql`
          select count(*)::int as count, count(distinct prospect_id)::int as people
          from events
          where kind = 'prospectAdded'
        `,
      ),
    ).toEqual([{ count: fresh, people: fresh }])
    expect(await rows(sql`select count(*)::int as count from email_addresses`)).toEqual([{ count: ROWS }])
    expect(await rows(sql`select count(*)::int as count from import_chunks`)).toEqual([{ count: 0 }])
  }, 180_000)
})
