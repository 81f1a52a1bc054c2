import { randomUUID } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import { listCadences } from '../../../shared/api/cadences/cadences'
import { enroll, unenroll } from '../../../shared/api/cadences/enrollments'
import { brief } from '../../../shared/api/desk/desk'
import { queue } from '../../../shared/api/desk/queue'
import {
  addNote,
  addProspect,
  editProspect,
  getProspect,
  listProspects,
  moveProspect,
  stopProspect,
} from '../../../shared/api/prospects'
import { getCompany, setCompanyStatus } from '../../../shared/api/companies'
import { prospectHistory, undo } from '../../../shared/api/events/history'
import { editStage, stages } from '../../../shared/api/settings/stages'
import { addField, removeField } from '../../../shared/api/settings/fields'
import { db } from '../../../server/db/pool'
import { takeDueSteps } from '../../../server/engine/dueSteps'
import type { Caller } from '../../fixtures/caller'
import { addCadence, addPeople, addUser, MONDAY, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import { sql } from '../../../server/db/sql'

const team = withTeam()

const read = (id: string, as = team.asRep) => as.ok(getProspect, { params: { id } })

describe('adding one person', () => {
  it('takes a name and a number, and works out the rest', async () => {
    const { id, known } = await team.asRep.ok(addProspect, {
      body: { name: 'Lindqvist, Petra', phone: '(607) 555-0142' },
    })
    expect(known).toBe(false)
    expect(await read(id)).toMatchObject({
      firstName: 'Petra',
      lastName: 'Lindqvist',
      owner: { id: team.rep.id },
      company: null,
      country: 'US',
      timeZone: 'America/New_York',
      stage: { id: 'new' },
      phones: [{ number: '+16075550142', shown: '(607) 555-0142', status: 'unverified' }],
      emails: [],
    })
    expect((await team.asRep.ok(prospectHistory, { params: { id } })).entries.map((entry) => entry.kind)).toEqual([
      'prospectAdded',
    ])
  })
  it('finds the company by the address, but never at a public mail domain', async () => {
    const first = await read(
      (
        await team.asRep.ok(addProspect, {
          body: { name: 'Wen Varga', email: 'Wen.Varga@Halden.example', company: 'Halden Cider Works' },
        })
      ).id,
    )
    const second = await read(
      (await team.asRep.ok(addProspect, { body: { name: 'Dov Groot', email: 'dov@halden.example' } })).id,
    )
    const alone = await read(
      (await team.asRep.ok(addProspect, { body: { name: 'Yusra Groot', email: 'yusra.groot@gmail.com' } })).id,
    )
    expect(first.company).toMatchObject({ name: 'Halden Cider Works', status: 'open' })
    expect(second.company!.id).toBe(first.company!.id)
    expect(second.colleagues.map((one) => one.name)).toEqual(['Wen Varga'])
    expect(alone.company).toBe(null)
  })
  it('gives the one who is known by address, or by number and name, instead of a second', async () => {
    const { id } = await team.asRep.ok(addProspect, {
      body: { name: 'Marit Feldkamp', email: 'marit@oxbow.example', phone: '802 555 0117' },
    })
    expect(await team.asRep.ok(addProspect, { body: { name: 'M. Feldkamp', email: ' MARIT@oxbow.example ' } })).toEqual(
      { id, known: true },
    )
    expect(await team.asRep.ok(addProspect, { body: { name: 'Marit FELDKAMP', phone: '+1 802-555-0117' } })).toEqual({
      id,
      known: true,
    })
    expect((await team.asRep.ok(addProspect, { body: { name: 'Someone Else', phone: '802 555 0117' } })).known).toBe(
      false,
    )
  })
  it('a prospect whom another rep owns is neither shown nor added twice', async () => {
    await team.asOther.ok(addProspect, { body: { name: 'Ilse Penhallow', email: 'ilse@tarnside.example' } })
    expect(
      await team.asRep.refused(addProspect, 409, { body: { name: 'Ilse Penhallow', email: 'ilse@tarnside.example' } }),
    ).toMatchObject({ problems: [{ field: 'email' }] })
    expect((await team.asRep.ok(listProspects, { query: { search: 'Penhallow' } })).total).toBe(0)
  })
  it.each([
    ['no letter in the name', { name: '!!' }, 'name'],
    ['an empty name', { name: '  ' }, 'name'],
    ['a number that cannot be', { name: 'A B', phone: '12' }, 'phone'],
    ['an address that is none', { name: 'A B', email: 'a@b' }, 'email'],
    ['a zone nobody knows', { name: 'A B', timeZone: 'Mars/Olympus' }, 'timeZone'],
  ])('with %s says so at the field, and adds nobody', async (_, body, field) => {
    const before = await rows(sql`select count(*)::int as count from prospects`)
    expect((await team.asRep.refused(addProspect, 400, { body })).problems.map((problem) => problem.field)).toContain(
      field,
    )
    expect(await rows(sql`select count(*)::int as count from prospects`)).toEqual(before)
  })
})

describe('correcting a person', () => {
  it('keeps what is sent, leaves what is not, and says who did it', async () => {
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id)
    const before = await read(id!)
    const { version } = await team.asRep.ok(editProspect, {
      params: { id: id! },
      body: {
        version: before.version,
        title: 'Cellar master',
        city: 'Viroqua',
        addPhone: '608 555 0120',
        addEmail: 'second@marlpit.example',
      },
    })
    const after = await read(id!)
    expect(after).toMatchObject({ name: before.name, title: 'Cellar master', city: 'Viroqua', version })
    expect(after.phones.map((phone) => phone.number)).toEqual([before.phones[0]!.number, '+16085550120'])
    expect(after.emails.map((email) => email.address)).toEqual([before.emails[0]!.address, 'second@marlpit.example'])
    const { entries } = await team.asRep.ok(prospectHistory, { params: { id: id! } })
    expect(entries[0]).toMatchObject({ kind: 'prospectEdited', by: 'Imani Osei', canUndo: false })
  })
  it('is reassigned with its open work, and the former owner no longer sees it', async () => {
    const { ids } = await addPeople(1, team.rep.id)
    const cadence = await addCadence([{ kind: 'call' }])
    await team.asRep.ok(enroll, { params: { id: cadence.id }, body: { prospectIds: ids } })
    await takeDueSteps()
    const of = async (as: Caller) => (await as.ok(queue)).items.filter((item) => item.prospectId === ids[0]).length
    expect([await of(team.asRep), await of(team.asOther)]).toEqual([1, 0])
    await team.asRep.ok(editProspect, {
      params: { id: ids[0]! },
      body: { version: (await read(ids[0]!)).version, ownerId: team.other.id },
    })
    expect([await of(team.asRep), await of(team.asOther)]).toEqual([0, 1])
    await team.asRep.refused(getProspect, 404, { params: { id: ids[0]! } })
    expect((await read(ids[0]!, team.asOther)).owner).toEqual({ id: team.other.id, name: team.other.name })
  })
  it('cannot be assigned to an unknown or a deactivated user', async () => {
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id)
    const duplicate = await addUser('rep', 'Nerys Groot')
    await db().query(sql`update users set active = false where id = $1`, [duplicate.id])
    for (const ownerId of [randomUUID(), duplicate.id]) {
      expect(
        (await team.asRep.refused(editProspect, 400, { params: { id: id! }, body: { version: 1, ownerId } })).problems,
      ).toMatchObject([{ field: 'ownerId' }])
    }
    expect((await read(id!)).owner!.id).toBe(team.rep.id)
    await team.asRep.ok(editProspect, { params: { id: id! }, body: { version: 1, ownerId: null } })
    expect((await read(id!, team.asOther)).owner).toBe(null)
  })
  it('moves the hours of what is open when the zone is corrected', async () => {
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id)
    await db().query(
      sql`
        insert into tasks (id, prospect_id, owner_id, kind, priority, title, due_at, status, time_zone)
        values ($1, $2, $3, 'follow_up', 2, 'Call', world_now(), 'open', 'America/New_York')
      `,
      [randomUUID(), id, team.rep.id],
    )
    expect((await read(id!)).calling.open).toBe(true)
    await team.asRep.ok(editProspect, {
      params: { id: id! },
      body: { version: 1, timeZone: 'Asia/Tokyo', country: 'JP' },
    })
    expect((await read(id!)).calling).toMatchObject({ open: false, from: Date.UTC(2026, 10, 23, 23) })
    expect(await rows(sql`select time_zone as "timeZone" from tasks where prospect_id = $1`, [id])).toEqual([
      { timeZone: 'Asia/Tokyo' },
    ])
  })
  it('of two at once, the second is refused with the current version', async () => {
    const {
      ids: [id],
    } = await addPeople(1, null)
    const edit = (as: Caller, title: string) =>
      as.ok(editProspect, { params: { id: id! }, body: { version: 1, title } }).then(
        () => 'kept',
        () => 'refused',
      )
    expect((await Promise.all([edit(team.asRep, 'One'), edit(team.asOther, 'Two')])).sort()).toEqual([
      'kept',
      'refused',
    ])
    expect(
      (await team.asRep.refused(editProspect, 409, { params: { id: id! }, body: { version: 1, title: 'Three' } }))
        .current,
    ).toEqual({ version: 2 })
  })
})

describe('the list of people', () => {
  it('goes on where a page ended, each person once, newest first', async () => {
    const { ids } = await addPeople(25, team.other.id, 'Pagewright Archive')
    const seen: string[] = []
    for (let after: string | null = null, first = true; first || after; first = false) {
      const page = (await team.asOther.ok(listProspects, {
        query: { search: 'Pagewright', limit: 10, ...(after && { after }) },
      })) as { prospects: { id: string }[]; next: string | null; total: number }
      expect(page.total).toBe(25)
      seen.push(...page.prospects.map((row) => row.id))
      after = page.next
    }
    expect([...seen].sort()).toEqual([...ids].sort())
  })
  it('narrows by stage, owner, cadence, and by what is typed: name, company, address, number', async () => {
    const { ids } = await addPeople(4, team.rep.id, 'Quillon Perry')
    const cadence = await addCadence([{ kind: 'call' }, { kind: 'task', amount: 1, unit: 'days' }])
    await team.asRep.ok(enroll, { params: { id: cadence.id }, body: { prospectIds: ids.slice(0, 2) } })
    await team.asManager.ok(editProspect, {
      params: { id: ids[3]! },
      body: { version: 1, ownerId: null, firstName: 'Ünsal', addPhone: '608 555 0191' },
    })
    await team.asRep.ok(moveProspect, { params: { id: ids[2]! }, body: { id: randomUUID(), to: 'attempting' } })
    const found = async (query: Record<string, string>) =>
      (await team.asRep.ok(listProspects, { query: { search: 'Quillon', ...query } })).prospects
        .map((row) => ids.indexOf(row.id))
        .sort()
    expect(await found({})).toEqual([0, 1, 2, 3])
    expect(await found({ stage: 'attempting' })).toEqual([2])
    expect(await found({ owner: 'none' })).toEqual([3])
    expect(await found({ owner: team.rep.id })).toEqual([0, 1, 2])
    expect(await found({ cadence: cadence.id })).toEqual([0, 1])
    expect(await found({ search: 'unsal' })).toEqual([3])
    expect(await found({ search: '608 555 0191' })).toEqual([3])
    expect(await found({ search: '100%' })).toEqual([])
    const { id } = await team.asRep.ok(addProspect, {
      body: { name: 'Jürgen Schäfer', company: 'Käserei Höhe', phone: '(608) 555-0177', country: 'US' },
    })
    for (const search of ['schäfer', 'schafer', 'Käserei', 'kaserei']) {
      expect((await team.asRep.ok(listProspects, { query: { search } })).prospects.map((row) => row.id)).toEqual([id])
    }
  })
  it.each([
    ['stage', 'nowhere', 0],
    ['owner', randomUUID(), 0],
    ['import', randomUUID(), 0],
  ])('with a %s that is not there finds nobody', async (name, value, total) => {
    expect((await team.asRep.ok(listProspects, { query: { [name]: value } })).total).toBe(total)
  })
  it('refuses a limit beyond sense and an owner that is no id', async () => {
    await team.asRep.refused(listProspects, 400, { query: { limit: 100_000 } })
    await team.asRep.refused(listProspects, 400, { query: { owner: 'me; drop table prospects' } })
  })
})

describe('moving a stage by hand', () => {
  it('goes through its gate: three attempts before unreached, a reason before lost', async () => {
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id)
    const { stages: all } = await team.asRep.ok(stages)
    expect(all.map((stage) => stage.id)).toContain('unreached')
    await team.asRep.refused(moveProspect, 422, {
      params: { id: id! },
      body: { id: randomUUID(), to: 'unreached' },
    })
    await team.asRep.refused(moveProspect, 422, { params: { id: id! }, body: { id: randomUUID(), to: 'lost' } })
    await team.asRep.ok(moveProspect, {
      params: { id: id! },
      body: { id: randomUUID(), to: 'lost', reason: 'Bad timing' },
    })
    expect((await read(id!)).stage.id).toBe('lost')
  })
  it('a gate is changed by managers, holds from then on, and demands no field that is gone', async () => {
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id)
    const { id: field } = await team.asManager.ok(addField, {
      body: { of: 'prospect', name: 'Cellar size', kind: 'number' },
    })
    const gate = { fields: ['title', `custom:${field}`], note: true }
    await team.asRep.refused(editStage, 403, { params: { stage: 'meeting' }, body: { gate } })
    await team.asManager.refused(editStage, 404, { params: { stage: 'nowhere' }, body: { gate } })
    await team.asManager.refused(editStage, 400, {
      params: { stage: 'meeting' },
      body: { gate: { fields: ['custom:gone'] } },
    })
    const found = await team.asManager.ok(stages)
    const stage = found.stages.find((one) => one.kind === 'open' && one.id !== 'new')!
    expect(found.fields.find((one) => one.key === `custom:${field}`)).toEqual({
      key: `custom:${field}`,
      label: 'Cellar size',
    })
    await team.asManager.ok(editStage, { params: { stage: stage.id }, body: { name: 'Worth a visit', gate } })
    const move = { params: { id: id! }, body: { id: randomUUID(), to: stage.id, note: 'They asked for it' } }
    expect((await team.asRep.refused(moveProspect, 422, move)).problems.map((problem) => problem.message)).toEqual([
      'Worth a visit requires “job title”',
      'Worth a visit requires “Cellar size”',
    ])
    const { version } = await read(id!)
    await team.asRep.ok(editProspect, {
      params: { id: id! },
      body: { version, title: 'Cellar master', custom: { [field]: 0 } },
    })
    await team.asRep.ok(moveProspect, move)
    expect((await read(id!)).stage).toMatchObject({ id: stage.id, name: 'Worth a visit' })
    await team.asManager.ok(removeField, { params: { id: field } })
    expect((await team.asRep.ok(stages)).stages.find((one) => one.id === stage.id)!.gate).toEqual({
      fields: ['title'],
      note: true,
    })
    await team.asManager.ok(editStage, { params: { stage: stage.id }, body: { name: stage.name, gate: {} } })
  })
  it('a manager may override a gate, and the activity says why', async () => {
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id)
    await team.asManager.ok(moveProspect, {
      params: { id: id! },
      body: { id: randomUUID(), to: 'unreached', override: 'They moved abroad' },
    })
    expect((await read(id!)).stage.id).toBe('unreached')
    const { entries } = await team.asManager.ok(prospectHistory, { params: { id: id! } })
    expect(entries[0]).toMatchObject({
      body: 'Gate overridden: They moved abroad',
      changes: expect.arrayContaining([expect.objectContaining({ cause: 'Gate overridden' })]) as object,
    })
  })
  it('a stage that is not there, and the one they are in, change nothing', async () => {
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id)
    await team.asRep.refused(moveProspect, 422, { params: { id: id! }, body: { id: randomUUID(), to: 'nowhere' } })
    expect((await read(id!)).version).toBe(1)
  })
})

describe('stops', () => {
  it('end what they forbid, and lifting one brings nothing back by itself', async () => {
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id)
    const cadence = await addCadence([
      { kind: 'email', amount: 1, unit: 'days' },
      { kind: 'call', amount: 1, unit: 'days' },
    ])
    await team.asRep.ok(enroll, { params: { id: cadence.id }, body: { prospectIds: [id!] } })
    const { summary: says } = await team.asRep.ok(stopProspect, {
      params: { id: id! },
      body: { id: randomUUID(), channel: 'all', on: true },
    })
    expect(says).toContain('Never called or emailed again')
    const stopped = await read(id!)
    expect(stopped).toMatchObject({ stopCall: true, stopEmail: true, calling: { open: false } })
    expect(stopped.enrollments.map((one) => [one.status, one.exit])).toEqual([['ended', 'stopped']])
    await team.asRep.ok(stopProspect, { params: { id: id! }, body: { id: randomUUID(), channel: 'all', on: false } })
    expect((await read(id!)).enrollments.every((one) => one.status === 'ended')).toBe(true)
    expect(await team.asRep.ok(enroll, { params: { id: cadence.id }, body: { prospectIds: [id!] } })).toMatchObject({
      enrolled: 1,
    })
  })
  it('on a company are stops for everyone there, and keep new ones out', async () => {
    const { companyId, ids } = await addPeople(3, team.rep.id)
    const cadence = await addCadence([{ kind: 'call', amount: 1, unit: 'days' }])
    await team.asRep.ok(enroll, { params: { id: cadence.id }, body: { prospectIds: ids.slice(0, 2) } })
    await team.asRep.ok(setCompanyStatus, {
      params: { id: companyId },
      body: { id: randomUUID(), to: 'do_not_contact' },
    })
    expect(await rows(sql`select distinct status, exit from enrollments where prospect_id = any($1)`, [ids])).toEqual([
      { status: 'ended', exit: 'stopped' },
    ])
    const { enrolled, refused } = await team.asRep.ok(enroll, {
      params: { id: cadence.id },
      body: { prospectIds: ids },
    })
    expect(enrolled).toBe(0)
    expect(refused).toHaveLength(3)
    expect(await team.asRep.ok(getCompany, { params: { id: companyId } })).toMatchObject({
      status: 'do_not_contact',
      hidden: 0,
    })
  })
})

describe('enrolling', () => {
  it('says who may not, with the reason, without doing it when only asked', async () => {
    const { ids } = await addPeople(4, team.rep.id)
    const cadence = await addCadence([{ kind: 'email' }, { kind: 'call', amount: 1, unit: 'days' }])
    await db().query(sql`delete from email_addresses where prospect_id = $1`, [ids[0]])
    await team.asRep.ok(stopProspect, { params: { id: ids[1]! }, body: { id: randomUUID(), channel: 'all', on: true } })
    await team.asRep.ok(enroll, { params: { id: cadence.id }, body: { prospectIds: [ids[2]!] } })
    const asked = await team.asRep.ok(enroll, { params: { id: cadence.id }, body: { prospectIds: ids, dryRun: true } })
    expect(asked).toMatchObject({ enrolled: 1, refusedCount: 3 })
    expect(new Set(asked.refused.map((one) => one.prospectId))).toEqual(new Set(ids.slice(0, 3)))
    expect(asked.refused.every((one) => one.why.length > 5 && one.name.startsWith('Tomas'))).toBe(true)
    expect(await rows(sql`select count(*)::int as count from enrollments where cadence_id = $1`, [cadence.id])).toEqual(
      [{ count: 1 }],
    )
    expect(await team.asRep.ok(enroll, { params: { id: cadence.id }, body: { prospectIds: ids } })).toMatchObject({
      enrolled: 1,
      refused: asked.refused,
    })
  })
  it('twice at once enrolls no prospect twice', async () => {
    const { ids } = await addPeople(10, team.rep.id)
    const cadence = await addCadence([{ kind: 'call', amount: 1, unit: 'days' }])
    const results = await Promise.all(
      [1, 2, 3].map(() => team.asRep.ok(enroll, { params: { id: cadence.id }, body: { prospectIds: ids } })),
    )
    expect(results.reduce((sum, one) => sum + one.enrolled, 0)).toBe(10)
    expect(await rows(sql`select count(*)::int as count from enrollments where cadence_id = $1`, [cadence.id])).toEqual(
      [{ count: 10 }],
    )
  })
  it('leaves other people’s people alone, and knows who is where', async () => {
    const theirs = await addPeople(1, team.other.id)
    const mine = await addPeople(1, team.rep.id)
    const cadence = await addCadence([{ kind: 'call', amount: 1, unit: 'days' }])
    expect(
      await team.asRep.ok(enroll, { params: { id: cadence.id }, body: { prospectIds: [...theirs.ids, ...mine.ids] } }),
    ).toMatchObject({ enrolled: 1, refusedCount: 0 })
    const listed = async () => (await team.asRep.ok(listCadences)).cadences.find((one) => one.id === cadence.id)!
    expect(await listed()).toMatchObject({ open: 1, steps: [{ here: 1 }] })
    const [enrollment] = (await read(mine.ids[0]!)).enrollments
    await team.asOther.refused(unenroll, 404, { params: { id: enrollment!.id }, body: { id: randomUUID() } })
    await team.asRep.ok(unenroll, { params: { id: enrollment!.id }, body: { id: randomUUID() } })
    await team.asRep.refused(unenroll, 422, { params: { id: enrollment!.id }, body: { id: randomUUID() } })
    expect(await listed()).toMatchObject({ open: 0, exits: { removed: 1 } })
  })
})

describe('the history', () => {
  it('tells every change with its cause, newest first, and takes back the last on request', async () => {
    const {
      ids: [id],
    } = await addPeople(1, team.rep.id)
    const noteId = randomUUID()
    await team.asRep.ok(addNote, { params: { id: id! }, body: { id: noteId, body: 'Two aging rooms' } })
    await team.asRep.ok(addNote, { params: { id: id! }, body: { id: noteId, body: 'Two aging rooms' } })
    const move = randomUUID()
    await team.asRep.ok(moveProspect, { params: { id: id! }, body: { id: move, to: 'attempting' } })
    const { entries } = await team.asRep.ok(prospectHistory, { params: { id: id! } })
    expect(entries.map((entry) => entry.at)).toEqual([...entries.map((entry) => entry.at)].sort((a, b) => b - a))
    expect((await team.asRep.ok(brief, { params: { id: id! } })).notes.map((note) => [note.by, note.body])).toEqual([
      ['Imani Osei', 'Two aging rooms'],
    ])
    expect(entries.find((entry) => entry.id === move)).toMatchObject({
      canUndo: true,
      undone: false,
      by: 'Imani Osei',
      at: MONDAY,
    })
    await team.asOther.refused(undo, 404, { params: { id: move }, body: { id: randomUUID() } })
    expect(await team.asRep.ok(undo, { params: { id: move }, body: { id: randomUUID() } })).toMatchObject({
      unchanged: [],
    })
    await team.asRep.refused(undo, 422, { params: { id: move }, body: { id: randomUUID() } })
    expect((await read(id!)).stage.id).toBe('new')
    expect(
      (await team.asRep.ok(prospectHistory, { params: { id: id! } })).entries.find((entry) => entry.id === move),
    ).toMatchObject({ undone: true, canUndo: false })
  })
  it('of a colleague’s prospect is hidden from a rep', async () => {
    const {
      ids: [id],
      companyId,
    } = await addPeople(1, team.other.id)
    for (const endpoint of [getProspect, prospectHistory]) {
      expect(await team.asRep.refused(endpoint, 404, { params: { id: id! } })).toMatchObject({ code: 'not_found' })
    }
    await team.asRep.refused(addNote, 404, { params: { id: id! }, body: { id: randomUUID(), body: 'x' } })
    await team.asRep.refused(getCompany, 404, { params: { id: companyId } })
    await team.asRep.refused(getProspect, 404, { params: { id: randomUUID() } })
    await team.asRep.refused(getProspect, 400, { params: { id: 'not-an-id' } })
  })
})
