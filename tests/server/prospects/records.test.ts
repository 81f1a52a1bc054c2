import { randomUUID } from 'node:crypto'
import { beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { brief } from '../../../shared/api/desk/desk'
import { addField } from '../../../shared/api/settings/fields'
import { findProspects } from '../../../shared/api/lists'
import { editDeal } from '../../../shared/api/deals'
import {
  addCompanyLink,
  addCompanyNote,
  companyResearch,
  companyTouches,
  removeCompanyLink,
} from '../../../shared/api/companies'
import {
  addNote,
  deleteNote,
  editNote,
  editPhone,
  editProspect,
  getProspect,
  pinNote,
} from '../../../shared/api/prospects'
import { prospectHistory } from '../../../shared/api/events/history'
import { listSources, removeSource, saveSource } from '../../../shared/api/settings/settings'
import { db } from '../../../server/db/pool'
import { addPeople, freeze, MONDAY, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'
import '../database'
import { sql } from '../../../server/db/sql'

const team = withTeam()
let companyId: string
let id: string
let colleague: string
let hidden: string
beforeEach(async () => {
  const made = await addPeople(3, team.rep.id, `Gault Cellars ${randomUUID().slice(0, 4)}`)
  companyId = made.companyId
  ;[id, colleague, hidden] = made.ids as [string, string, string]
  await db().query(sql`update prospects set owner_id = $2 where id = $1`, [hidden, team.other.id])
})
const read = (as = team.asRep) => as.ok(getProspect, { params: { id } })
const edit = async (body: object) =>
  team.asRep.ok(editProspect, { params: { id }, body: { version: (await read()).version, ...body } })

describe('a number', () => {
  it('has a type, a status and tags, which are kept tidy and once', async () => {
    const phone = (await read()).phones[0]!.id
    await team.asRep.ok(editPhone, {
      params: { id, phone },
      body: { kind: 'mobile', status: 'correct', tags: [' direct  line', 'cellar', 'cellar', ' '] },
    })
    expect((await read()).phones).toMatchObject([
      { kind: 'mobile', status: 'correct', tags: ['cellar', 'direct line'] },
    ])
    await team.asRep.ok(editPhone, { params: { id, phone }, body: { status: 'wrong' } })
    // A number that is wrong is not called.
    expect(await read()).toMatchObject({
      phones: [{ kind: 'mobile', status: 'wrong', tags: ['cellar', 'direct line'] }],
      calling: { open: false, why: 'no phone number that works' },
    })
  })
  it('is refused for users who do not see the prospect, and under another prospect', async () => {
    const phone = (await read()).phones[0]!.id
    await team.asOther.refused(editPhone, 404, { params: { id, phone }, body: { kind: 'home' } })
    await team.asRep.refused(editPhone, 404, { params: { id: colleague, phone }, body: { kind: 'home' } })
    await team.asRep.refused(editPhone, 400, { params: { id, phone }, body: { status: 'fine' } })
    await team.asRep.refused(editPhone, 400, { params: { id, phone }, body: { tags: ['x'.repeat(10_000)] } })
    expect((await read()).phones[0]).toMatchObject({ kind: 'work', status: 'unverified', tags: [] })
  })
})

describe('the time zone', () => {
  it('follows the address, then the number, until it is set by hand; and again when that is cleared', async () => {
    await edit({ country: 'US', region: 'CA' })
    expect(await read()).toMatchObject({ timeZone: 'America/Los_Angeles', timeZoneIsManual: false })
    await db().query(
      sql`
        insert into tasks (id, prospect_id, owner_id, kind, priority, title, due_at, status, time_zone)
        values ($1, $2, $3, 'call', 2, 'Ring', world_now(), 'open', 'America/Los_Angeles')
      `,
      [randomUUID(), id, team.rep.id],
    )
    await edit({ timeZone: 'Europe/Berlin' })
    await edit({ country: 'US', region: 'IL' })
    expect(await read()).toMatchObject({ timeZone: 'Europe/Berlin', timeZoneIsManual: true })
    await edit({ timeZone: null })
    expect(await read()).toMatchObject({ timeZone: 'America/Chicago', timeZoneIsManual: false })
    expect(await rows(sql`select time_zone as "timeZone" from tasks where prospect_id = $1`, [id])).toEqual([
      { timeZone: 'America/Chicago' },
    ])
    // Without an address the number says where someone is.
    await db().query(sql`update phones set number = '+442079460018' where prospect_id = $1`, [id])
    await edit({ country: null, region: null })
    expect(await read()).toMatchObject({ timeZone: 'Europe/London' })
  })
  it('stays where a correction says nothing of place or number', async () => {
    await db().query(sql`update prospects set time_zone = 'Asia/Tokyo' where id = $1`, [id])
    await edit({ title: 'Cooper' })
    expect((await read()).timeZone).toBe('Asia/Tokyo')
  })
})

describe('a note', () => {
  it('is in the activity, changed and deleted by its author or a manager; the log holds none of its words', async () => {
    const [id] = (await addPeople(1, team.rep.id)).ids as [string]
    await db().query(sql`update prospects set owner_id = null where id = $1`, [id])
    const note = randomUUID()
    const add = () => team.asRep.ok(addNote, { params: { id }, body: { id: note, body: 'Two cellars' } })
    await add()
    await add()
    const params = { id, note }
    const shown = async (as = team.asRep) => (await as.ok(brief, { params: { id } })).notes
    expect(await shown()).toMatchObject([{ body: 'Two cellars', mayEdit: true }])
    expect(await shown(team.asOther)).toMatchObject([{ mayEdit: false }])
    const entries = async () => (await team.asRep.ok(prospectHistory, { params: { id } })).entries
    expect(await entries()).toMatchObject([{ title: 'Note', note: 'Two cellars' }])
    const change = { body: 'Three cellars', was: 'Two cellars' }
    await team.asOther.refused(editNote, 403, { params, body: change })
    await team.asRep.ok(editNote, { params, body: change })
    // Sent again after a lost answer it is done already; what another read before is a conflict.
    await team.asRep.ok(editNote, { params, body: change })
    const late = await team.asManager.refused(editNote, 409, { params, body: { body: 'Four', was: 'Two cellars' } })
    expect(late.current).toEqual({ body: 'Three cellars' })
    await team.asRep.refused(editNote, 400, { params, body: { body: ' ', was: 'Three cellars' } })
    await team.asOther.refused(deleteNote, 403, { params })
    await team.asManager.ok(deleteNote, { params })
    await team.asRep.refused(deleteNote, 404, { params })
    expect(await shown()).toEqual([])
    expect((await entries()).map(({ title }) => title).slice(0, 3)).toEqual(['Note deleted', 'Note edited', 'Note'])
    const logged = await rows(sql`select payload from events where prospect_id = $1`, [id])
    expect(JSON.stringify(logged)).not.toContain('cellars')
  })
})

describe('a pinned note', () => {
  it('comes first, one at a time, also of two that are pinned at once', async () => {
    const [one, two, three] = [randomUUID(), randomUUID(), randomUUID()]
    for (const [note, body] of [
      [one, 'First'],
      [two, 'Second'],
      [three, 'Third'],
    ] as const) {
      await team.asRep.ok(addNote, { params: { id }, body: { id: note, body } })
    }
    const pin = (note: string, pinned = true) => team.asRep.ok(pinNote, { params: { id, note }, body: { pinned } })
    const notes = async () =>
      (await team.asRep.ok(brief, { params: { id } })).notes.map((note) => [note.id, note.pinned])
    await pin(one)
    expect((await notes())[0]).toEqual([one, true])
    await Promise.all([pin(two), pin(three)])
    expect((await notes()).filter(([, pinned]) => pinned)).toHaveLength(1)
    const [[status]] = (await notes()) as [[string, boolean]]
    await pin(status, false)
    expect((await notes()).filter(([, pinned]) => pinned)).toEqual([])
    await team.asOther.refused(pinNote, 404, { params: { id, note: one }, body: { pinned: true } })
    await team.asRep.refused(pinNote, 404, { params: { id: colleague, note: one }, body: { pinned: true } })
  })
})

describe('mail choices', () => {
  it('are known of everyone, changed, and asked for in filters', async () => {
    expect((await read()).emailTypes).toEqual(['one_to_one', 'marketing', 'requested'])
    await edit({ emailTypes: ['requested'] })
    const found = async (filter: string) =>
      (
        await team.asRep.ok(findProspects, { body: { filter: `${filter} and company contains "Gault"`, limit: 500 } })
      ).people.map((person) => person.id)
    expect(await found('email preferences is exactly requested')).toEqual([id])
    expect(await found('email preferences has any of marketing')).not.toContain(id)
    await team.asRep.refused(editProspect, 400, {
      params: { id },
      body: { version: (await read()).version, emailTypes: ['pigeon'] },
    })
  })
})

describe('changes at one moment', () => {
  it('are in the activity in the order in which they were made, newest first', async () => {
    await freeze(MONDAY)
    const cities = ['Ithaca', 'Elmira', 'Corning', 'Owego', 'Cortland', 'Geneva']
    for (const city of cities) await edit({ city })
    const { entries } = await team.asRep.ok(prospectHistory, { params: { id } })
    expect(
      entries
        .slice(0, cities.length)
        .map((entry) => cities.findIndex((city) => JSON.stringify(entry).includes(`→ ${city}`))),
    ).toEqual([5, 4, 3, 2, 1, 0])
  })
})

describe('touches', () => {
  it('are counted by kind', async () => {
    for (const kind of ['call', 'call', 'text', 'visit']) {
      await db().query(
        sql`
          insert into touches (id, prospect_id, kind, at, counts_as)
          values (gen_random_uuid(), $1, $2, world_now(), 'none')
        `,
        [id, kind],
      )
    }
    expect((await read()).touchCounts).toEqual({ call: 2, text: 1, visit: 1 })
  })
})

describe('a deal', () => {
  let field: string
  beforeAll(async () => {
    field = (await team.asManager.ok(addField, { body: { of: 'deal', name: 'Loggers', kind: 'number' } })).id
  })
  it('has a value and custom fields, edits are in the activity, and undo restores it', async () => {
    const deal = randomUUID()
    await db().query(
      sql`
        insert into deals (id, company_id, prospect_id, name, status, likelihood, opened_at)
        values ($1, $2, $3, 'First order', 'open', 15, world_now())
      `,
      [deal, companyId, id],
    )
    await team.asRep.ok(editDeal, { params: { id: deal }, body: { value: 1800.5, custom: { [field]: '12' } } })
    expect((await read()).deals).toMatchObject([
      { name: 'First order', value: 1800.5, custom: { [field]: 12 }, status: 'open', likelihood: 15 },
    ])
    await team.asRep.ok(editDeal, {
      params: { id: deal },
      body: { name: 'Second order', value: null, custom: { [field]: null } },
    })
    expect((await read()).deals).toMatchObject([{ name: 'Second order', value: null, custom: {} }])
    expect((await team.asRep.ok(prospectHistory, { params: { id } })).entries.map((entry) => entry.title)).toContain(
      'Deal edited',
    )
    expect(
      (await team.asRep.refused(editDeal, 400, { params: { id: deal }, body: { value: -1 } })).problems[0],
    ).toMatchObject({ field: 'value' })
    expect(
      (await team.asRep.refused(editDeal, 400, { params: { id: deal }, body: { custom: { [field]: 'many' } } }))
        .problems[0],
    ).toMatchObject({ field: `custom.${field}` })
    await team.asOther.refused(editDeal, 404, { params: { id: deal }, body: { name: 'Mine' } })
    await team.asRep.refused(editDeal, 404, { params: { id: randomUUID() }, body: { name: 'Nobody’s' } })
  })
})

describe('what is found out about a company', () => {
  it('is kept with date and author, once, and links in their order', async () => {
    const note = { id: randomUUID(), body: 'Two aging rooms' }
    for (let twice = 0; twice < 2; twice++) {
      await team.asRep.ok(addCompanyNote, { params: { id: companyId }, body: note })
    }
    const first = await team.asRep.ok(addCompanyLink, {
      params: { id: companyId },
      body: { url: 'https://gault.example/about', label: 'About them' },
    })
    await team.asRep.ok(addCompanyLink, { params: { id: companyId }, body: { url: 'http://register.example/7' } })
    expect(await team.asManager.ok(companyResearch, { params: { id: companyId } })).toMatchObject({
      notes: [{ ...note, by: team.rep.name }],
      links: [
        { url: 'https://gault.example/about', label: 'About them' },
        { url: 'http://register.example/7', label: '' },
      ],
    })
    await team.asRep.ok(removeCompanyLink, { params: { id: companyId, link: first.id } })
    await team.asRep.refused(removeCompanyLink, 404, { params: { id: companyId, link: first.id } })
    expect((await team.asRep.ok(companyResearch, { params: { id: companyId } })).links).toHaveLength(1)
  })
  it.each(['javascript:alert(1)', 'register.example', 'ftp://register.example'])(
    'takes no link like %s',
    async (url) => {
      expect(
        (await team.asRep.refused(addCompanyLink, 400, { params: { id: companyId }, body: { url } })).problems[0],
      ).toMatchObject({ field: 'url' })
    },
  )
  it('is hidden from users who see no prospect there', async () => {
    await db().query(sql`update prospects set owner_id = $2 where id = $1`, [hidden, team.rep.id])
    await team.asOther.refused(companyResearch, 404, { params: { id: companyId } })
    await team.asOther.refused(addCompanyNote, 404, {
      params: { id: companyId },
      body: { id: randomUUID(), body: 'Let me in' },
    })
    await team.asOther.refused(companyTouches, 404, { params: { id: companyId } })
  })
})

describe('the thread of a company', () => {
  it('holds the touches of everyone there whom one sees, newest first', async () => {
    const touch = (who: string, kind: string, days: number) =>
      db().query(
        sql`
          insert into touches (id, prospect_id, kind, at, counts_as)
          values (gen_random_uuid(), $1, $2, world_now() - $3 * interval '1 day', 'none')
        `,
        [who, kind, days],
      )
    for (const [who, kind, days] of [
      [id, 'call', 9],
      [colleague, 'visit', 2],
      [hidden, 'meeting', 1],
      [id, 'text', 5],
    ] as const) {
      await touch(who, kind, days)
    }
    const kinds = async (as = team.asRep) =>
      (await as.ok(companyTouches, { params: { id: companyId } })).touches.map((one) => one.kind)
    expect(await kinds()).toEqual(['visit', 'text', 'call'])
    expect(await kinds(team.asManager)).toEqual(['meeting', 'visit', 'text', 'call'])
  })
})

describe('sources', () => {
  it('are kept from what people are said to come from, by whatever name, and say what they brought', async () => {
    await team.asManager.ok(saveSource, { params: { name: 'Cold chain fair' }, body: { cost: 4800, aliases: ['CCF'] } })
    await edit({ source: ' ccf ' })
    expect((await read()).source).toBe('Cold chain fair')
    await db().query(
      sql`
        insert into touches (id, prospect_id, kind, at, counts_as)
        values (gen_random_uuid(), $1, 'meeting', world_now(), 'none')
      `,
      [id],
    )
    await db().query(
      sql`
        insert into deals (id, company_id, prospect_id, name, status, likelihood, opened_at)
        values (gen_random_uuid(), $1, $2, 'Order', 'won', 100, world_now())
      `,
      [companyId, id],
    )
    expect((await team.asRep.ok(listSources, {})).sources).toMatchObject([
      { name: 'Cold chain fair', cost: 4800, aliases: ['CCF'], people: 1, meetings: 1, deals: 1 },
    ])
  })
  it('are a manager’s to keep', async () => {
    await team.asRep.refused(saveSource, 403, { params: { name: 'Mine' }, body: { cost: 0 } })
    await team.asRep.refused(removeSource, 403, { params: { name: 'Cold chain fair' } })
    await team.asManager.refused(removeSource, 422, { params: { name: 'Cold chain fair' } })
    await team.asManager.refused(saveSource, 400, { params: { name: 'Cold chain fair' }, body: { cost: -1 } })
    await team.asManager.ok(saveSource, { params: { name: 'Spring list / 2026' }, body: { cost: 1 } })
    await team.asManager.ok(removeSource, { params: { name: 'Spring list / 2026' } })
    await team.asManager.refused(removeSource, 404, { params: { name: 'Spring list / 2026' } })
  })
})
