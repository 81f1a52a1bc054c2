import { randomUUID } from 'node:crypto'
import { beforeEach, describe, expect, it } from 'vitest'
import type { Action } from '../../../core/actions/registry'
import type { FormField } from '../../../core/forms/fields'
import { enroll } from '../../../shared/api/cadences/enrollments'
import { brief as getBrief } from '../../../shared/api/desk/desk'
import { queue } from '../../../shared/api/desk/queue'
import { readEvents } from '../../../shared/api/events/feed'
import { formHistory, prospectHistory } from '../../../shared/api/events/history'
import { countProspects } from '../../../shared/api/lists'
import { listNotifications } from '../../../shared/api/notifications'
import { erasePerson, getProspect } from '../../../shared/api/prospects'
import { mergeProspects } from '../../../shared/api/duplicates'
import { addField } from '../../../shared/api/settings/fields'
import { addForm, editForm, formSubmissions, listForms } from '../../../shared/api/settings/forms'
import { addPeople, freeze, MONDAY, rows } from '../../fixtures/people'
import { activeCadence, stepDraft } from '../../fixtures/steps'
import { withTeam } from '../../fixtures/team'
import { sql } from '../../../server/db/sql'

const team = withTeam()
beforeEach(() => freeze(MONDAY))

const ask = (key: string, label: string, required = false): FormField => ({ key, label, required })
const FIELDS = [
  ask('name', 'Your name', true),
  ask('email', 'Email', true),
  ask('phone', 'Phone'),
  ask('company', 'Company'),
  ask('title', 'Job title'),
  ask('message', 'What is it about?'),
]
const body = (more: object = {}) => ({
  name: `Ask for a demo ${randomUUID().slice(0, 6)}`,
  heading: 'See it work',
  thanks: 'Thank you.',
  fields: FIELDS,
  actions: [] as Action[],
  ...more,
})
/** A form of these settings: its id, and where it is sent to. */
async function make(more: object = {}) {
  const given = body(more)
  const { id } = await team.asManager.ok(addForm, { body: given })
  const form = (await team.asManager.ok(listForms, {})).forms.find((one) => one.id === id)!
  return { id, form, path: new URL(form.url).pathname }
}
const post = (path: string, given: Record<string, string>, headers: Record<string, string> = {}) =>
  fetch(`${team.url}${path}`, { method: 'POST', body: new URLSearchParams(given), headers })
const stranger = () => ({ name: 'Ottilie Vance', email: `ottilie@${randomUUID().slice(0, 8)}.example` })
const personOf = async (email: string) =>
  (await rows<{ id: string }>(sql`select prospect_id as id from email_addresses where address = $1`, [email]))[0]!.id

describe('a form on the web', () => {
  it('adds who was not known, does what was set, lets the owner know, and is read where it came from', async () => {
    const actions: Action[] = [
      { type: 'assign', to: team.rep.id },
      { type: 'makeTask', task: 'task', title: 'Answer', wait: { amount: 0, unit: 'hours' }, whose: 'owner' },
    ]
    const { id, path } = await make({ actions, source: 'Website' })
    const given = { ...stranger(), phone: '(212) 555-0143', company: 'Vance & Co', message: 'Ours drifts.\nWhy?' }
    const answered = await post(path, given)
    expect([answered.status, await answered.text()]).toEqual([200, expect.stringContaining('Thank you.')])
    const personId = await personOf(given.email)
    expect(await team.asRep.ok(getProspect, { params: { id: personId } })).toMatchObject({
      name: 'Ottilie Vance',
      company: { name: 'Vance & Co' },
      source: 'Website',
      owner: { name: 'Imani Osei' },
      phones: [{ number: '+12125550143' }],
    })
    const { items } = await team.asRep.ok(queue, { query: { limit: 50 } })
    expect(items.find((item) => item.prospectId === personId)).toMatchObject({ why: 'Answer' })
    const { form } = await team.asRep.ok(getBrief, { params: { id: personId } })
    expect(form).toEqual({
      name: expect.stringMatching(/^Ask for a demo/),
      at: MONDAY,
      answers: [{ label: 'What is it about?', value: 'Ours drifts.\nWhy?' }],
    })
    const { notifications } = await team.asRep.ok(listNotifications, {})
    expect(notifications[0]).toMatchObject({ kind: 'form_sent', to: `/prospects/${personId}` })
    const { entries } = await team.asRep.ok(prospectHistory, { params: { id: personId } })
    const sent = entries.find(({ kind }) => kind === 'formSent')!
    expect(sent.title).toMatch(/^Form sent: Ask for a demo/)
    expect(sent.body).toContain('What is it about?: Ours drifts.\nWhy?')
    expect(sent.changes.map(({ cause }) => cause)).toContainEqual(expect.stringMatching(/^Form “Ask for a demo/))
    expect((await team.asManager.ok(formSubmissions, { params: { id } })).submissions).toMatchObject([
      { isNew: true, person: { id: personId, name: 'Ottilie Vance' } },
    ])
    const filter = { field: 'forms', test: { op: 'hasAny' as const, values: [id] } }
    expect(await team.asManager.ok(countProspects, { body: { filter } })).toMatchObject({ count: 1 })
    expect((await team.asManager.ok(listForms, {})).forms.find((one) => one.id === id)).toMatchObject({
      sent: 1,
      added: 1,
      lastAt: MONDAY,
    })
    const { events } = await team.asManager.ok(readEvents, { query: { kind: 'formSent', limit: 1000 } })
    expect(events.at(-1)).toMatchObject({ subject: { type: 'form', id }, payload: { formId: id, isNew: true } })
    expect(JSON.stringify(events)).not.toMatch(/Ottilie|drifts/)
    // Sent again while it is to be answered, it is one to-do.
    expect((await post(path, { ...given, message: 'Can you call today?' })).status).toBe(200)
    const after = await team.asRep.ok(queue, { query: { limit: 50 } })
    expect(after.items.filter((item) => item.prospectId === personId)).toHaveLength(1)
  })
  it('finds who is known by their address, and fills in only what was empty', async () => {
    const { id: fieldId } = await team.asManager.ok(addField, {
      body: { of: 'prospect', name: `Sites ${randomUUID().slice(0, 5)}`, kind: 'number', choices: [] },
    })
    const { path } = await make({ fields: [...FIELDS, ask(fieldId, 'How many sites?')] })
    const given = { ...stranger(), title: 'Owner', [fieldId]: '4' }
    expect((await post(path, given)).status).toBe(200)
    const personId = await personOf(given.email)
    const again = { ...given, name: 'Someone Else', title: 'Director', phone: '212 555 0199', [fieldId]: '9' }
    expect((await post(path, again)).status).toBe(200)
    const person = await team.asManager.ok(getProspect, { params: { id: personId } })
    expect(person).toMatchObject({ name: 'Ottilie Vance', title: 'Owner', custom: { [fieldId]: 4 } })
    expect(person.phones.map(({ number }) => number)).toEqual(['+12125550199'])
    expect(await rows(sql`select is_new from form_submissions where prospect_id = $1 order by id`, [personId])).toEqual(
      [{ is_new: true }, { is_new: false }],
    )
  })
  it('says at its field what is wrong, with everything as it was typed; JSON gets codes', async () => {
    const { path } = await make()
    const wrong = { name: '', email: 'nobody@', phone: '12', message: '<b>hello</b>' }
    const page = await post(path, wrong)
    expect(page.status).toBe(400)
    const html = await page.text()
    expect(html).toContain('id="f-name-wrong">Please fill this in')
    expect(html).toContain('&lt;b&gt;hello&lt;/b&gt;')
    const bad = await post(path, { ...stranger(), email: 'nobody@' })
    expect(await bad.text()).toContain('id="f-email-wrong">Enter a valid email address')
    const json = await fetch(`${team.url}${path}`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(wrong),
    })
    expect([json.status, await json.json()]).toMatchObject([
      400,
      { error: { code: 'invalid', problems: [{ field: 'name' }] } },
    ])
    const { status } = await fetch(`${team.url}${path}`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: '{',
    })
    expect(status).toBe(400)
    expect((await post(path, { ...stranger(), message: 'x'.repeat(5_001) })).status).toBe(400)
    expect((await post(path, { ...stranger(), message: 'x'.repeat(30_000) })).status).toBe(413)
    expect(await rows(sql`select from email_addresses where address like 'nobody@%'`)).toEqual([])
  })
  it('counts once under one id, takes nothing from what fills in the trap, and is closed once it is archived', async () => {
    const { id, form, path } = await make()
    const given = { ...stranger(), submission_id: randomUUID() }
    expect([(await post(path, given)).status, (await post(path, given)).status]).toEqual([200, 200])
    const robot = { ...stranger(), website_address: 'https://spam.example' }
    expect((await post(path, robot)).status).toBe(200)
    expect(await rows(sql`select from form_submissions where form_id = $1`, [id])).toHaveLength(1)
    expect(await rows(sql`select from email_addresses where address = $1`, [robot.email])).toEqual([])
    const { url: _url, sent: _sent, added: _added, lastAt: _last, faults: _faults, id: _id, ...saved } = form
    await team.asManager.ok(editForm, { params: { id }, body: { ...saved, archived: true } })
    expect([(await post(path, stranger())).status, (await fetch(`${team.url}${path}`)).status]).toEqual([404, 404])
    expect((await fetch(`${team.url}/f/nothing-here`)).status).toBe(404)
  })
  it('adds nobody where what they sent is not recorded', async () => {
    const { path } = await make()
    const id = randomUUID()
    const [first, second] = [stranger(), stranger()]
    for (const who of [first, second]) {
      expect((await post(path, { ...who, submission_id: id })).status).toBe(200)
    }
    expect(await rows(sql`select from email_addresses where address = $1`, [first.email])).toHaveLength(1)
    expect(await rows(sql`select from email_addresses where address = $1`, [second.email])).toEqual([])
  })
  it('keeps marketing emails to who ticked the box', async () => {
    const { path } = await make({ consent: 'Send me news' })
    const types = async (email: string) =>
      (
        await rows<{ types: string[] }>(sql`select email_types as types from prospects where id = $1`, [
          await personOf(email),
        ])
      )[0]!.types.includes('marketing')
    const [yes, no] = [stranger(), stranger()]
    await post(path, { ...yes, consent: 'yes' })
    await post(path, no)
    expect([await types(yes.email), await types(no.email)]).toEqual([true, false])
    // Who was known and leaves it empty has said nothing about it; who ticks it takes them again.
    await post(path, yes)
    await post(path, { ...no, consent: 'yes' })
    expect([await types(yes.email), await types(no.email)]).toEqual([true, true])
  })
  it('goes along with a merge, and what was sent is erased with who sent it', async () => {
    const { id, path } = await make()
    const given = { ...stranger(), message: 'Please call me' }
    await post(path, given)
    const duplicateId = await personOf(given.email)
    const [primaryId] = (await addPeople(1, team.rep.id)).ids as [string]
    await team.asManager.ok(mergeProspects, {
      params: { id: primaryId },
      body: { id: randomUUID(), duplicateId },
    })
    const submissions = async () => (await team.asManager.ok(formSubmissions, { params: { id } })).submissions
    expect(await submissions()).toMatchObject([{ person: { id: primaryId }, answers: [{}, {}, {}] }])
    const { name } = await team.asManager.ok(getProspect, { params: { id: primaryId } })
    await team.asAdmin.ok(erasePerson, { params: { id: primaryId }, body: { id: randomUUID(), name } })
    expect(await submissions()).toMatchObject([{ answers: [] }])
  })
})

describe('a form that is sent again', () => {
  it('ends cadences that end by it, before its own actions start one', async () => {
    const steps = () => [stepDraft('task'), stepDraft('task')]
    const ends = await activeCadence(team.asManager, { steps: steps(), exits: { formSent: 'person' } })
    const stays = await activeCadence(team.asManager, { steps: steps() })
    const { path } = await make({ actions: [{ type: 'startCadence', cadenceId: ends }] })
    const given = stranger()
    await post(path, given)
    const personId = await personOf(given.email)
    await team.asManager.ok(enroll, { params: { id: stays }, body: { prospectIds: [personId], dryRun: false } })
    await freeze(MONDAY + 3_600_000)
    await post(path, given)
    expect(
      await rows(
        sql`select cadence_id as cadence, status, exit from enrollments where prospect_id = $1 order by started_at, id`,
        [personId],
      ),
    ).toEqual([
      { cadence: ends, status: 'ended', exit: 'form_sent' },
      { cadence: stays, status: expect.stringMatching(/waiting|active/), exit: null },
      { cadence: ends, status: expect.stringMatching(/waiting|active/), exit: null },
    ])
  })
})

describe('the settings of forms', () => {
  it('are for managers, checked at their fields, and changed by one at a time', async () => {
    await team.asRep.refused(listForms, 403, {})
    await team.asRep.refused(addForm, 403, { body: body() })
    const fieldOf = async (more: object, status = 400) =>
      (await team.asManager.refused(addForm, status, { body: body(more) })).problems[0]?.field
    expect(await fieldOf({ name: ' ' })).toBe('name')
    expect(await fieldOf({ fields: [FIELDS[0]!] })).toBe('fields')
    expect(await fieldOf({ fields: [...FIELDS, FIELDS[2]!] })).toBe('fields')
    expect(await fieldOf({ fields: [...FIELDS, ask(randomUUID(), 'Gone')] })).toBe('fields.6')
    expect(await fieldOf({ nextUrl: 'javascript:alert(1)' })).toBe('nextUrl')
    expect(await fieldOf({ actions: [{ type: 'bookMeeting' }] })).toBe('actions.0')
    expect(await fieldOf({ actions: [{ type: 'startCadence', cadenceId: randomUUID() }] })).toBe('actions.0')
    const { id, form } = await make()
    expect(await fieldOf({ name: form.name.toUpperCase() }, 409)).toBe('name')
    const { url: _url, sent: _sent, added: _added, lastAt: _last, faults: _faults, id: _id, ...saved } = form
    const edited = { ...saved, heading: 'Watch it work', fields: FIELDS.slice(0, 2) }
    expect(await team.asManager.ok(editForm, { params: { id }, body: edited })).toEqual({ version: 2 })
    await team.asAdmin.refused(editForm, 409, { params: { id }, body: edited })
    const { entries } = await team.asManager.ok(formHistory, { params: { id } })
    expect(entries.map(({ title, by }) => [title, by])).toEqual([
      ['Form edited', 'Maren Holloway'],
      ['Form added', 'Maren Holloway'],
    ])
    expect(entries[0]!.body!.split('\n').sort()).toEqual([
      'Fields: Your name (required), Email (required), Phone, Company, Job title, What is it about? → Your name (required), Email (required)',
      'Heading: See it work → Watch it work',
    ])
  })
})
