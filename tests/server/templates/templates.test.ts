import { randomUUID } from 'node:crypto'
import type { Attachment } from 'mailparser'
import { beforeEach, describe, expect, it } from 'vitest'
import type { z } from 'zod'
import { previewBulk, startBulk } from '../../../shared/api/bulk'
import { addCadence, getCadence, planCadence } from '../../../shared/api/cadences/cadences'
import { enroll } from '../../../shared/api/cadences/enrollments'
import { brief, writeEmail } from '../../../shared/api/desk/desk'
import {
  addEmailTemplate,
  archiveEmailTemplate,
  editEmailTemplate,
  getEmailTemplate,
  listEmailTemplates,
  previewEmail,
} from '../../../shared/api/email/templates'
import type { Endpoint } from '../../../shared/api/endpoint'
import { findFiles, type StoredFile } from '../../../shared/api/email/files'
import { addField, editField } from '../../../shared/api/settings/fields'
import { db } from '../../../server/db/pool'
import { sql } from '../../../server/db/sql'
import { runBulk } from '../../../server/services/bulk/runBulk'
import { addKey } from '../../../server/services/access/sessions'
import { deleteUnusedFiles } from '../../../server/services/templates/files'
import type { Caller } from '../../fixtures/caller'
import { withMail } from '../../fixtures/mail'
import { addPeople, freeze, MONDAY, rows } from '../../fixtures/people'
import { activeCadence, stepDraft } from '../../fixtures/steps'
import { withTeam } from '../../fixtures/team'

const team = withTeam()
const { room, work } = withMail()
beforeEach(async () => {
  await freeze(MONDAY)
  room.letters.length = 0
})
/** One pixel (PNG specification, third edition). */
const PICTURE = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNkYPhfDwAChwGA60e6kgAAAABJRU5ErkJggg==',
  'base64',
)
let key = ''
async function sendFile(name: string, content: Buffer): Promise<Response> {
  key ||= (await addKey(team.rep, 'files')).key
  return fetch(`${team.url}/api/files?name=${encodeURIComponent(name)}`, {
    method: 'POST',
    headers: { authorization: `Bearer ${key}`, 'content-type': 'application/octet-stream' },
    body: new Uint8Array(content),
  })
}
/** Calls an endpoint that must refuse, for this reason and at these fields. */
async function refused(
  who: Caller,
  endpoint: Endpoint,
  given: { params?: Record<string, string>; body?: unknown },
  code: keyof typeof STATUS,
  fields: string[] = [],
) {
  const error = await who.refused(endpoint, STATUS[code], given)
  expect(error.code).toBe(code)
  expect(error.problems.map(({ field }) => field)).toEqual(fields)
  return error
}
const STATUS = { not_found: 404, not_allowed: 403, conflict: 409, invalid: 400 }
const upload = async (name: string, content: Buffer) => (await (await sendFile(name, content)).json()) as StoredFile
const add = async (given: Partial<z.input<typeof addEmailTemplate.body>> = {}, as = team.asManager) =>
  (
    await as.ok(addEmailTemplate, {
      body: { kind: 'email', name: `Template ${randomUUID()}`, subject: 'Rooms', body: 'Hello', ...given },
    })
  ).id
/** An active cadence of one email, and someone of the rep’s in it. */
async function sendStep(step: Parameters<typeof stepDraft>[1], count = 1) {
  const id = await activeCadence(team.asManager, { steps: [stepDraft('email', step)], cold: true })
  const { ids } = await addPeople(count, team.rep.id)
  await team.asRep.ok(enroll, { params: { id }, body: { prospectIds: ids } })
  return { id, ids }
}

describe('email templates', () => {
  it('are the team’s, or a rep’s own until they are shared', async () => {
    const shared = await add({ name: 'For all' })
    const own = await add({ name: 'Only mine', shared: true }, team.asRep)
    const namesFor = async (caller: typeof team.asRep) =>
      (await caller.ok(listEmailTemplates, { query: { kind: 'email' } })).templates.map(({ name }) => name)
    expect(await namesFor(team.asRep)).toEqual(expect.arrayContaining(['For all', 'Only mine']))
    expect(await namesFor(team.asOther)).not.toContain('Only mine')
    expect(await namesFor(team.asManager)).toContain('Only mine')
    await refused(team.asOther, getEmailTemplate, { params: { id: own } }, 'not_found')
    const body = { version: 1, name: 'For all', subject: 'Rooms', body: 'Mine now' }
    await refused(team.asRep, editEmailTemplate, { params: { id: shared }, body }, 'not_allowed')
    await team.asRep.ok(editEmailTemplate, { params: { id: own }, body: { ...body, name: 'Mine, shared' } })
    expect(await namesFor(team.asOther)).toContain('Mine, shared')
    await refused(team.asRep, editEmailTemplate, { params: { id: own }, body: { ...body, version: 2 } }, 'not_allowed')
  })
  it('are offered first to those they are for', async () => {
    await add({ name: 'Zebra, for the fair', sources: ['Fair'] })
    const { ids } = await addPeople(1, team.rep.id)
    await db().query(sql`update prospects set source = 'Fair' where id = $1`, [ids[0]])
    const query = { kind: 'email' as const, prospectId: ids[0]! }
    const { templates } = await team.asRep.ok(listEmailTemplates, { query })
    expect(templates[0]).toMatchObject({ name: 'Zebra, for the fair', fits: true })
    expect(templates.slice(1).some(({ fits }) => fits)).toBe(false)
  })
  it('change every step that uses them, and never lose a step', async () => {
    const templateId = await add({ name: 'Used', subject: 'First subject', body: 'First text' })
    const { id } = await sendStep({ templateId, subject: 'ignored', body: 'ignored' })
    const textOf = async () => {
      const [step] = (await team.asManager.ok(getCadence, { params: { id } })).steps
      return [step!.subject, step!.body, step!.html]
    }
    expect(await textOf()).toEqual(['First subject', 'First text', null])
    const now = await team.asManager.ok(getEmailTemplate, { params: { id: templateId } })
    expect(now.usedBy).toMatchObject([{ cadenceId: id, step: 'A email' }])
    const changed = { ...now, subject: 'New subject', html: '<p>New <b>text</b></p>' }
    await team.asManager.ok(editEmailTemplate, { params: { id: templateId }, body: changed })
    expect(await textOf()).toEqual(['New subject', 'New text', '<p>New <strong>text</strong></p>'])
    await refused(team.asManager, editEmailTemplate, { params: { id: templateId }, body: changed }, 'conflict')
    const without = { ...changed, version: 2, subject: '' }
    await refused(team.asManager, editEmailTemplate, { params: { id: templateId }, body: without }, 'invalid', [
      'subject',
    ])
    const unshared = { ...changed, version: 2, shared: false }
    await refused(team.asManager, editEmailTemplate, { params: { id: templateId }, body: unshared }, 'invalid', [
      'shared',
    ])
    await team.asManager.ok(archiveEmailTemplate, { params: { id: templateId }, body: { archived: true } })
    const offered = await team.asManager.ok(listEmailTemplates, { query: { kind: 'email' } })
    expect(offered.templates.map(({ name }) => name)).not.toContain('Used')
    expect(await textOf()).toEqual(['New subject', 'New text', '<p>New <strong>text</strong></p>'])
    await work()
    expect(room.letters[0]!.raw.html).toContain('New <strong>text</strong>')
  })
  it('that are not there, or not shared, cannot be a shared cadence’s', async () => {
    const missing = { name: 'Gone', steps: [stepDraft('email', { templateId: randomUUID() })] }
    await refused(team.asManager, addCadence, { body: missing }, 'invalid', ['steps.0.templateId'])
    await refused(team.asManager, planCadence, { body: { prospectId: null, steps: missing.steps } }, 'invalid', [
      'steps.0.templateId',
    ])
    const own = await add({ shared: false })
    const ofOwn = { name: 'Own', steps: [stepDraft('email', { templateId: own })] }
    await refused(team.asManager, addCadence, { body: ofOwn }, 'invalid', ['steps.0.templateId'])
    await team.asManager.ok(addCadence, { body: { ...ofOwn, shared: false } })
  })
  it('are refused with what is wrong with them, at its field', async () => {
    const wrong = {
      kind: 'email' as const,
      name: 'Wrong',
      subject: 'To {{ first_nam }}',
      body: 'x',
      html: '<p>{{ a</p>',
    }
    const answer = await refused(team.asManager, addEmailTemplate, { body: wrong }, 'invalid', ['subject', 'body'])
    expect(answer.problems[0]!.message).toContain('There is no field "first_nam"')
    const empty = { kind: 'email' as const, name: 'Empty', html: '<p> </p>' }
    await refused(team.asManager, addEmailTemplate, { body: empty }, 'invalid', ['body'])
  })
  it('follow a custom field that is renamed', async () => {
    const { id: fieldId } = await team.asManager.ok(addField, { body: { of: 'prospect', name: 'Room', kind: 'text' } })
    const html = '<p><b>{{ room | default: "room" }}</b></p>'
    const templateId = await add({ name: 'Rooms', subject: '{{ room }}', html })
    const { id } = await sendStep({ templateId })
    const field = (await rows<{ version: number }>(sql`select version from custom_fields where id = $1`, [fieldId]))[0]!
    await team.asManager.ok(editField, {
      params: { id: fieldId },
      body: { name: 'Cellar', version: field.version } as never,
    })
    const [step] = (await team.asManager.ok(getCadence, { params: { id } })).steps
    expect([step!.subject, step!.body, step!.html]).toEqual([
      '{{ cellar }}',
      '{{ cellar | default: "room" }}',
      '<p><strong>{{ cellar | default: "room" }}</strong></p>',
    ])
  })
  it('are shown as a prospect would get them, with what they lack and what may keep them from being read', async () => {
    const { ids } = await addPeople(1, team.rep.id)
    await db().query(sql`update prospects set city = null where id = $1`, [ids[0]])
    const html = '<p>Hello {{ first_name }} in {{ city }}, <em>act now</em></p><script>alert(1)</script>'
    const seen = await team.asRep.ok(previewEmail, {
      body: { prospectId: ids[0]!, subject: 'For {{ first_name }}', body: '', html },
    })
    expect(seen).toMatchObject({
      subject: 'For Tomas',
      body: 'Hello Tomas in , act now',
      html: '<p>Hello Tomas in , <em>act now</em></p>',
      missing: ['city'],
      faults: [],
      hints: [{ field: 'body', message: 'Filters count against it: “act now”' }],
    })
    const other = { prospectId: ids[0]!, subject: '', body: 'x' }
    await refused(team.asOther, previewEmail, { body: other }, 'not_found')
  })
})

describe('email with formatting and files', () => {
  it('arrives as text and HTML, with its pictures within it and its files attached', async () => {
    const picture = await upload('logger.png', PICTURE)
    expect(picture).toMatchObject({ name: 'logger.png', mediaType: 'image/png', bytes: PICTURE.length })
    const guide = await upload('guide.pdf', Buffer.from('%PDF-1.4 a guide'))
    const html = `<p>Hello {{ first_name }},</p><ul><li>one</li><li><a href="https://t.example/g">the guide</a></li></ul><p><img src="/api/files/${picture.id}" alt="Logger"></p>`
    await sendStep({ html, attachments: [guide.id], subject: 'Rooms' })
    await work()
    const { raw } = room.letters[0]!
    expect(raw.text).toContain('Hello Tomas,\n\n- one\n- the guide (https://t.example/g)')
    expect(raw.text).toContain('No more mail from us')
    // The link leads to its page by way of us.
    expect(raw.html).toMatch(
      /<li>one<\/li><li><a href="[^"]+\/c\/[^"]+\?to=https%3A%2F%2Ft.example%2Fg">the guide<\/a>/,
    )
    expect(raw.html).toContain('No more mail from us')
    const byName = new Map(raw.attachments.map((file): [string | undefined, Attachment] => [file.filename, file]))
    expect(byName.get('guide.pdf')).toMatchObject({ contentType: 'application/pdf', contentDisposition: 'attachment' })
    expect(byName.get('guide.pdf')!.content.toString()).toBe('%PDF-1.4 a guide')
    expect(byName.get('logger.png')).toMatchObject({ contentType: 'image/png', related: true })
    expect(byName.get('logger.png')!.content.equals(PICTURE)).toBe(true)
  })
  it('waits where the formatted text lacks a value, and goes once it is there', async () => {
    const { ids } = await sendStep({ html: '<p>Your <b>{{ city }}</b></p>', subject: 'Rooms' })
    await db().query(sql`update prospects set city = null where id = $1`, [ids[0]])
    await work()
    expect(room.letters).toHaveLength(0)
    expect(await rows(sql`select status, last_error from email_messages where prospect_id = $1`, [ids[0]])).toEqual([
      { status: 'held', last_error: 'No city on record, and the template has no fallback' },
    ])
  })
  it('is refused with a file that is not there, is a program, is empty, or is too large', async () => {
    const lost = { name: 'x', steps: [stepDraft('email', { attachments: [randomUUID()] })] }
    await refused(team.asManager, addCadence, { body: lost }, 'invalid', ['steps.0.attachments'])
    const noPicture = { html: `<p>A<img src="/api/files/${randomUUID()}"></p>` }
    await refused(
      team.asManager,
      addCadence,
      { body: { name: 'x', steps: [stepDraft('email', noPicture)] } },
      'invalid',
      ['steps.0.body'],
    )
    for (const [name, content] of [
      ['setup.exe', Buffer.from('MZ')],
      ['empty.pdf', Buffer.alloc(0)],
      ['large.png', Buffer.alloc(10_000_001)],
    ] as const) {
      const answer = await sendFile(name, content)
      expect([name, answer.status]).toEqual([name, 400])
    }
    const half = await Promise.all([
      upload('a.pdf', Buffer.alloc(6_000_000, 1)),
      upload('b.pdf', Buffer.alloc(6_000_000, 1)),
    ])
    const attachments = half.map(({ id }) => id)
    const tooMuch = await refused(
      team.asManager,
      addEmailTemplate,
      { body: { kind: 'email', name: 'Large', subject: 'x', body: 'x', attachments } },
      'invalid',
      ['attachments'],
    )
    expect(tooMuch.message).toContain('these are 12.0 MB')
  })
  it('can be written on the Desk, from what a template says to them', async () => {
    const { ids } = await addPeople(1, team.rep.id)
    const file = await upload('price list.txt', Buffer.from('129 each'))
    await team.asRep.ok(writeEmail, {
      params: { id: ids[0]! },
      body: { id: randomUUID(), subject: 'Prices', body: 'x', html: '<p>At <b>129</b></p>', attachments: [file.id] },
    })
    await work()
    const { raw } = room.letters[0]!
    expect(raw.text?.trim()).toBe('At 129')
    expect(raw.html).toContain('<p>At <strong>129</strong></p>')
    expect(raw.attachments.map(({ filename }) => filename)).toEqual(['price list.txt'])
  })
  it('that a rep looks at first is shown filled in, and goes as they leave it', async () => {
    const { ids } = await sendStep({ review: true, subject: 'Rooms', html: '<p>Hello <b>{{ first_name }}</b></p>' })
    await work()
    const task = (
      await rows<{ id: string }>(sql`select id from tasks where prospect_id = $1 and status = 'open'`, [ids[0]])
    )[0]!
    const seen = await team.asRep.ok(brief, { params: { id: ids[0]! }, query: { task: task.id } })
    expect(seen.message).toMatchObject({ subject: 'Rooms', html: '<p>Hello <strong>Tomas</strong></p>', missing: [] })
    await team.asRep.ok(writeEmail, {
      params: { id: ids[0]! },
      body: { id: randomUUID(), subject: 'Rooms', body: 'x', html: '<p>Hi <b>Tom</b></p>', taskId: task.id },
    })
    await work()
    expect(room.letters[0]!.raw.html).toContain('<p>Hi <strong>Tom</strong></p>')
    expect(room.letters[0]!.raw.text).toContain('Hi Tom\n\n--\n')
  })
  it('to many is filled in for each, and once only, however often it is put off', async () => {
    const { ids } = await addPeople(2, team.rep.id)
    const action = {
      type: 'email' as const,
      subject: 'For {{ first_name }}',
      body: '',
      html: '<p>Hello <b>{{ first_name }}</b></p>',
      kind: 'requested' as const,
      sendAt: null,
    }
    const body = { action: { ...action, body: 'Hello {{ first_name }}' }, prospectIds: ids }
    const preview = await team.asRep.ok(previewBulk, { body })
    expect(preview.mail!.examples[0]).toMatchObject({
      subject: 'For Tomas',
      html: '<p>Hello <strong>Tomas</strong></p>',
    })
    const { id } = await team.asRep.ok(startBulk, { body: { id: randomUUID(), ...body } })
    await runBulk(id)
    // The server puts them off once.
    room.closed = true
    await work()
    room.closed = false
    expect(room.letters).toHaveLength(0)
    await freeze(MONDAY + 3_600_000)
    await work()
    expect(room.letters).toHaveLength(2)
    for (const { raw } of room.letters) {
      expect(raw.text!.match(/No more mail from us/g)).toHaveLength(1)
      expect((raw.html as string).match(/No more mail from us/g)).toHaveLength(1)
    }
  })
  it('loses files that nothing refers to after a week', async () => {
    const [used, lost] = [await upload('used.txt', Buffer.from('a')), await upload('lost.txt', Buffer.from('b'))]
    const recent = await upload('recent.txt', Buffer.from('c'))
    await add({ attachments: [used.id] })
    await db().query(sql`update files set created_at = '2020-01-01' where id = any($1::uuid[])`, [[used.id, lost.id]])
    await deleteUnusedFiles()
    const { files } = await team.asRep.ok(findFiles, { body: { ids: [used.id, lost.id, recent.id] } })
    expect(files.map(({ name }) => name)).toEqual(['used.txt', 'recent.txt'])
  })
})
