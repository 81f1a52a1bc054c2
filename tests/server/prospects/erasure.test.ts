import { randomUUID } from 'node:crypto'
import { beforeAll, describe, expect, it } from 'vitest'
import { findProspects } from '../../../shared/api/lists'
import {
  addNote,
  addProspect,
  editProspect,
  erasePerson,
  exportPerson,
  getProspect,
  moveProspect,
  stopProspect,
} from '../../../shared/api/prospects'
import { prospectHistory } from '../../../shared/api/events/history'
import { setCompanyStatus } from '../../../shared/api/companies'
import { logOutcome, planTask } from '../../../shared/api/desk/desk'
import { enroll } from '../../../shared/api/cadences/enrollments'
import { db } from '../../../server/db/pool'
import { takeDueSteps } from '../../../server/engine/dueSteps'
import { addCadence, addPeople, MONDAY, outcomeId, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import { sql } from '../../../server/db/sql'

const team = withTeam()
const HOUR = 3_600_000
const SECRETS = [
  'Tomas',
  'Bellweather',
  'Grumbleton Dairy',
  'tomas1@',
  '2125550',
  'secret reason',
  'secret override',
  'secret title',
  'secret meeting',
  'secret note',
]
let id: string
let companyId: string
let reachBefore: { address: string; number: string }[]

beforeAll(async () => {
  const added = await addPeople(2, team.rep.id, 'Grumbleton Dairy')
  id = added.ids[0]!
  companyId = added.companyId
  reachBefore = await rows(
    sql`
      select e.address, n.number
      from email_addresses e
        join phones n using (prospect_id)
      where e.prospect_id = $1
    `,
    [id],
  )
  const params = { id }
  await team.asRep.ok(enroll, {
    params: { id: (await addCadence([{ kind: 'call' }])).id },
    body: { prospectIds: added.ids },
  })
  await takeDueSteps()
  await team.asRep.ok(logOutcome, {
    params,
    body: {
      id: randomUUID(),
      outcomeId: await outcomeId('Not interested'),
      details: { reason: 'secret reason', note: 'secret note' },
    },
  })
  await team.asRep.ok(planTask, {
    params,
    body: { id: randomUUID(), task: 'task', title: 'secret title', body: 'secret to-do', dueAt: MONDAY + HOUR },
  })
  await team.asRep.ok(logOutcome, {
    params,
    body: {
      id: randomUUID(),
      outcomeId: await outcomeId('Meeting booked'),
      details: {
        meeting: { title: 'secret meeting', startAt: MONDAY + 48 * HOUR, minutes: 30, timeZone: 'America/New_York' },
      },
    },
  })
  await team.asManager.ok(moveProspect, {
    params,
    body: { id: randomUUID(), to: 'unreached', override: 'secret override' },
  })
  await team.asRep.ok(addNote, { params, body: { id: randomUUID(), body: 'secret note' } })
  // Causes that speak of the company and of the person.
  await team.asRep.ok(enroll, {
    params: { id: (await addCadence([{ kind: 'task', amount: 1, unit: 'hours' }], { cold: false })).id },
    body: { prospectIds: added.ids },
  })
  await db().query(sql`update companies set status = 'do_not_contact' where id = $1`, [companyId])
  await db().query(
    sql`
      update enrollments
      set due_at = world_now()
      where status = 'waiting';
      update scheduled_actions
      set at = world_now()
    `,
  )
  await takeDueSteps()
  await team.asRep.ok(setCompanyStatus, { params: { id: companyId }, body: { id: randomUUID(), to: 'open' } })
  await team.asRep.ok(stopProspect, { params, body: { id: randomUUID(), channel: 'all', on: true } })
})

describe('the event log', () => {
  it('holds ids, values and codes: no name, no address, nothing that people wrote', async () => {
    const log = JSON.stringify([await rows(sql`select * from events`), await rows(sql`select * from effects`)])
    for (const secret of SECRETS) expect(log, secret).not.toContain(secret)
    expect(log).toContain('"stop":"company_do_not_contact"')
  })
  it('is read with what people wrote, from beside it', async () => {
    const entries = await team.asRep.ok(prospectHistory, { params: { id } })
    const read = JSON.stringify(entries)
    expect(read).toContain('Reason: secret reason')
    expect(read).toContain('Gate overridden: secret override')
  })
})

describe('a person who asks', () => {
  it('has everything that is kept of them, in one record, from a manager', async () => {
    const record = JSON.stringify(await team.asManager.ok(exportPerson, { params: { id } }))
    for (const secret of SECRETS) expect(record, secret).toContain(secret)
    await team.asRep.refused(exportPerson, 403, { params: { id } })
  })
  it('is erased: nothing says who they were, the numbers stay, the log is whole', async () => {
    const before = await rows(
      sql`
        select
          count(*)::int as events, (select count(*)::int from effects) as effects,
          (select count(*)::int from touches) as touches
        from events
      `,
    )
    expect(
      (
        await team.asManager.refused(erasePerson, 400, {
          params: { id },
          body: { id: randomUUID(), name: 'Someone Else' },
        })
      ).problems,
    ).toMatchObject([{ field: 'name' }])
    await team.asRep.refused(erasePerson, 403, {
      params: { id },
      body: { id: randomUUID(), name: 'Tomas Bellweather 1' },
    })
    await team.asManager.ok(erasePerson, { params: { id }, body: { id: randomUUID(), name: 'tomas bellweather 1' } })
    const tables = (
      await rows<{ table_name: string; column_name: string }>(
        sql`
          select table_name, column_name
          from information_schema.columns
          where table_schema = 'public'
            and column_name in ('prospect_id', 'id')
            and table_name in (
              select table_name
              from information_schema.columns
              where table_schema = 'public' and column_name = 'prospect_id'
            )
        `,
      )
    )
      .filter((one) => one.column_name === 'prospect_id')
      .map((one) => one.table_name)
    for (const table of tables) {
      const found = JSON.stringify(await rows(sql`select * from ${table} where prospect_id = $1`, [id]))
      // A deal is the company's, and named for it.
      const primary = table === 'deals' ? ['Grumbleton Dairy'] : []
      for (const secret of SECRETS.filter((one) => !primary.includes(one))) {
        expect(`${table}: ${found.includes(secret) ? secret : 'clean'}`).toBe(`${table}: clean`)
      }
    }
    const person = JSON.stringify(await rows(sql`select * from prospects where id = $1`, [id]))
    for (const secret of SECRETS) expect(person).not.toContain(secret)
    const after = await rows<{ events: number; effects: number; touches: number }>(
      sql`
        select
          count(*)::int as events, (select count(*)::int from effects) as effects,
          (select count(*)::int from touches) as touches
        from events
      `,
    )
    expect(after[0]!.touches).toBe((before[0] as { touches: number }).touches)
    expect(after[0]!.events).toBe((before[0] as { events: number }).events + 2)
    expect(await rows(sql`select stop_call, stop_email, status from prospects where id = $1`, [id])).toEqual([
      { stop_call: true, stop_email: true, status: 'archived' },
    ])
    const { people } = await team.asManager.ok(findProspects, { body: {} })
    expect(people.map((one) => one.id)).not.toContain(id)
    await expect(rows(sql`delete from events`)).rejects.toThrow('append only')
    const { version } = (await rows<{ version: number }>(sql`select version from prospects where id = $1`, [id]))[0]!
    await team.asManager.refused(editProspect, 422, { params: { id }, body: { version, firstName: 'Back' } })
  })
  it('is not written to or called when they come in again; a colleague at the same company is', async () => {
    const [reach] = reachBefore
    const again = await team.asRep.ok(addProspect, {
      body: { name: 'Tomas Bellweather', email: reach!.address.toUpperCase(), phone: reach!.number },
    })
    const person = await team.asRep.ok(getProspect, { params: { id: again.id } })
    expect(person.stopEmail).toBe(true)
    expect(person.phones.map((phone) => phone.status)).toEqual(['do_not_call'])
    const colleague = await team.asRep.ok(addProspect, {
      body: { name: 'Ottilie Crane', email: 'ottilie@grumbleton.example', phone: '(607) 555-0177' },
    })
    const other = await team.asRep.ok(getProspect, { params: { id: colleague.id } })
    expect([other.stopEmail, ...other.phones.map((phone) => phone.status)]).toEqual([false, 'unverified'])
    const held = JSON.stringify(await rows(sql`select encode(fingerprint, 'escape') as read from erased_contacts`))
    expect(held).not.toContain(reach!.address.split('@')[0])
  })
})
