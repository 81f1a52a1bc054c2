import { parse } from 'csv-parse/sync'
import { randomUUID } from 'node:crypto'
import { beforeEach, describe, expect, it } from 'vitest'
import { addBlock, getBlock } from '../../../shared/api/blocks/blocks'
import {
  addExport,
  addResultFile,
  addResults,
  editResult,
  endExport,
  exportFile,
  listExports,
  listUnreadable,
  nameOutcome,
  removeResult,
} from '../../../shared/api/blocks/otherDialers'
import { nextPass, workBlock } from '../../../shared/api/blocks/work'
import { erasePerson, getProspect } from '../../../shared/api/prospects'
import { prospectHistory } from '../../../shared/api/events/history'
import { db } from '../../../server/db/pool'
import { sql } from '../../../server/db/sql'
import { logResults } from '../../../server/services/otherDialers/logResults'
import { addPeople, freeze, MONDAY, outcomeId, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'

const team = withTeam()
const HOUR = 3_600_000
beforeEach(() => freeze(MONDAY))

let used = 0
/** A block of people with numbers of their own, handed to another dialer. */
async function handedOver(count: number, given: object = {}) {
  const { ids } = await addPeople(count, team.rep.id)
  const numbers: string[] = []
  for (const id of ids) {
    numbers.push(`+1607555${String(4_000 + used++)}`)
    await db().query(sql`update phones set number = $2 where prospect_id = $1`, [id, numbers.at(-1)])
  }
  const id = randomUUID()
  await team.asManager.ok(addBlock, {
    body: { id, name: 'Cold rooms', campaign: 'Fall', callerIds: [team.rep.id], who: { prospectIds: ids } },
  })
  const exportId = randomUUID()
  const body = { id: exportId, dialer: 'Northgate', callerNumbers: ['(212) 555-0190'], message: 'Hello', ...given }
  const handed = await team.asManager.ok(addExport, { params: { id }, body })
  return { id, exportId, ids, numbers, handed }
}
const people = (id: string) =>
  rows<{ id: string; number: string; prospectId: string }>(
    sql`
      select id, number, prospect_id as "prospectId"
      from call_export_people
      where export_id = $1
      order by position
    `,
    [id],
  )
/** Sends results by the API and has them logged, as the worker does. */
async function send(exportId: string, results: object[]) {
  await team.asManager.ok(addResults, { params: { id: exportId }, body: { results } as never })
  await logResults(exportId)
}
async function sendFile(exportId: string, content: string, name = 'results.csv') {
  const path = `${addResultFile.path.replace('{id}', exportId)}?name=${encodeURIComponent(name)}`
  const response = await team.asManager.raw('POST', path, Buffer.from(content))
  if (response.ok) await logResults(exportId)
  return { status: response.status, body: (await response.json()) as { rows?: number; error?: { message: string } } }
}
const listed = async (id: string) => (await team.asManager.ok(listExports, { params: { id } })).exports[0]!
const unreadable = async (exportId: string) =>
  (await team.asManager.ok(listUnreadable, { params: { id: exportId } })).results
const read = (id: string) => team.asManager.ok(getBlock, { params: { id } })

describe('people of a block who go to another dialer', () => {
  it('are marked with when and where, tagged, called by nobody here, and written into a file', async () => {
    const { id, exportId, ids, handed } = await handedOver(3, { tags: ['At Northgate'] })
    expect(handed).toMatchObject({ people: 3, skipped: 0 })
    expect((await team.asRep.ok(workBlock, { params: { id }, body: {} })).items).toEqual([])
    const person = await team.asRep.ok(getProspect, { params: { id: ids[0]! } })
    expect(person.atDialer).toEqual({ dialer: 'Northgate', since: MONDAY })
    expect(person.tags.map(({ name }) => name)).toContain('At Northgate')
    const { entries } = await team.asRep.ok(prospectHistory, { params: { id: ids[0]! } })
    expect(entries.map(({ title }) => title)).toContain('Sent to “Northgate”')
    const csv = await team.asManager.raw('GET', `/api/call-exports/${exportId}/file?format=csv`)
    const lines = parse(await csv.text(), { columns: true, bom: true }) as Record<string, string>[]
    const handedPeople = await people(exportId)
    expect(lines.map((line) => [line.id, line.number, line.caller_number])).toEqual(
      handedPeople.map((one) => [one.id, one.number, '+12125550190']),
    )
    expect(lines[0]).toMatchObject({ campaign: 'Fall', message: 'Hello', time_zone: 'America/New_York' })
    const json = await team.asManager.raw('GET', `/api/call-exports/${exportId}/file?format=json`)
    expect(await json.json()).toMatchObject({ campaign: 'Fall', callerNumbers: ['+12125550190'] })
    // Handed over twice it is once; nobody is left to hand over; a rep has no part in it.
    const body = { id: exportId, dialer: 'Northgate' }
    await team.asManager.refused(addExport, 422, { params: { id }, body: { ...body, id: randomUUID() } })
    await team.asRep.refused(addExport, 403, { params: { id }, body })
    await team.asRep.refused(exportFile, 403, { params: { id: exportId } })
    const wrong = { ...body, callerNumbers: ['12'] }
    const error = await team.asManager.refused(addExport, 400, { params: { id }, body: wrong })
    expect(error.problems).toMatchObject([{ field: 'callerNumbers.0' }])
  })

  it('are called here again when the export is ended', async () => {
    const { id, exportId, ids } = await handedOver(2)
    expect(await team.asManager.ok(endExport, { params: { id: exportId } })).toEqual({ people: 2 })
    expect((await team.asRep.ok(getProspect, { params: { id: ids[0]! } })).atDialer).toBeNull()
    expect((await team.asRep.ok(workBlock, { params: { id }, body: {} })).items).toHaveLength(2)
    // A result that still comes is logged.
    const [first] = await people(exportId)
    await send(exportId, [{ id: first!.id, outcome: 'Busy' }])
    expect((await read(id)).made.call).toBe(1)
  })
})

describe('results of another dialer', () => {
  it('are logged as if here: by our id or the number, with caller, note, call back and time', async () => {
    const { id, exportId, ids, numbers } = await handedOver(4)
    const handed = await people(exportId)
    await send(exportId, [
      {
        id: handed[0]!.id.toUpperCase(),
        outcome: 'interested',
        note: 'Wants a quote',
        caller: team.rep.email.toUpperCase(),
        calledAt: new Date(MONDAY - HOUR).toISOString(),
      },
      { number: numbers[1]!.replace('+1', ''), outcome: 'Left voicemail', caller: 'Pat at Northgate' },
      { id: handed[2]!.id, outcome: 'Call back at a time', callBackAt: '2026-11-25T15:00:00-05:00' },
    ])
    expect(await listed(id)).toMatchObject({ people: 4, back: 3, waiting: 0, logged: 3, unreadable: 0 })
    const block = await read(id)
    expect(block.counts).toMatchObject({ reached: 2, message: 1, to_call: 1 })
    // Each call is accounted for with who made it: a user, who brought the results in, or the other dialer.
    const calls = block.account.map(({ caller, calls }) => [caller.name, calls])
    expect(calls).toEqual([
      ['Imani Osei', 1],
      ['Maren Holloway', 1],
      ['Northgate', 1],
    ])
    expect(block.beads.filter(({ callerId }) => callerId === exportId)).toMatchObject([{ prospectId: ids[1] }])
    const { entries } = await team.asRep.ok(prospectHistory, { params: { id: ids[0]! } })
    expect(entries[0]).toMatchObject({ title: 'Call: Interested', note: 'Wants a quote' })
    expect(entries[0]!.body).toContain('Called by another dialer: ')
    const voicemail = await team.asRep.ok(prospectHistory, { params: { id: ids[1]! } })
    expect(voicemail.entries.find(({ title }) => title === 'Call: Left voicemail')).toMatchObject({
      by: 'Maren Holloway',
      note: 'Called by Pat at Northgate',
    })
    const tasks = await rows(
      sql`select 1 from tasks where prospect_id = $1 and kind = 'call_back' and status = 'open'`,
      [ids[2]],
    )
    expect(tasks).toHaveLength(1)
    expect((await team.asRep.ok(getProspect, { params: { id: ids[0]! } })).atDialer).toBeNull()
    // Sent again, nothing is done twice.
    await send(exportId, [
      { id: handed[2]!.id, outcome: 'Call back at a time', callBackAt: '2026-11-25T15:00:00-05:00' },
    ])
    expect(await listed(id)).toMatchObject({ logged: 3, known: 1 })
    expect((await read(id)).made.call).toBe(3)
    // The second pass: who was not reached is called again, here or there.
    await team.asManager.ok(endExport, { params: { id: exportId } })
    await send(exportId, [{ id: handed[3]!.id, outcome: 'No answer' }])
    await team.asManager.ok(nextPass, { params: { id }, body: { pass: 2 } })
    const again = await team.asManager.ok(addExport, {
      params: { id },
      body: { id: randomUUID(), dialer: 'Northgate' },
    })
    expect(again.people).toBe(2)
  })

  it('that cannot be read are kept, say where, and are corrected, named or discarded', async () => {
    const { id, exportId, numbers } = await handedOver(3)
    const handed = await people(exportId)
    const { status, body } = await sendFile(
      exportId,
      [
        'Phone,Disposition,Call Time',
        `${numbers[0]},Gatekeeper hung up,2026-11-23 09:00:00`,
        '+12125559999,Busy,',
        `${numbers[1]},Busy,soon`,
        `${numbers[2]},Meeting booked,`,
      ].join('\n'),
    )
    expect({ status, body }).toEqual({ status: 200, body: { rows: 4 } })
    const refusedRows = await unreadable(exportId)
    expect(refusedRows.map(({ rowNumber, field }) => [rowNumber, field])).toEqual([
      [1, 'outcome'],
      [2, 'number'],
      [3, 'calledAt'],
      [4, 'outcome'],
    ])
    expect(refusedRows[0]!.content).toMatchObject({ number: numbers[0], outcome: 'Gatekeeper hung up' })
    // What the dialer means is said once, and holds for what comes later.
    const gatekeeper = await outcomeId('Gatekeeper')
    const params = { id: exportId }
    await team.asManager.ok(nameOutcome, { params, body: { word: 'gatekeeper hung up', outcomeId: gatekeeper } })
    await logResults(exportId)
    const full = { id: '', caller: '', note: '', callBackAt: '', reason: '' }
    const mended = await team.asManager.ok(editResult, {
      params: { id: refusedRows[2]!.id },
      body: { ...full, number: numbers[1]!, outcome: 'Busy', calledAt: '11/23/2026 9:05 AM' },
    })
    expect(mended.status).toBe('logged')
    await team.asManager.refused(editResult, 409, {
      params: { id: refusedRows[2]!.id },
      body: { ...full, outcome: 'Busy' },
    })
    const still = await team.asManager.ok(editResult, {
      params: { id: refusedRows[1]!.id },
      body: { ...full, number: '+12125559998', outcome: 'Busy', calledAt: '' },
    })
    expect(still).toMatchObject({ status: 'unreadable', field: 'number' })
    await team.asManager.ok(removeResult, { params: { id: refusedRows[1]!.id } })
    await team.asRep.refused(removeResult, 403, { params: { id: refusedRows[3]!.id } })
    expect(await listed(id)).toMatchObject({ logged: 2, unreadable: 1 })
    await send(exportId, [{ id: handed[2]!.id, outcome: 'Gatekeeper hung up' }])
    expect(await listed(id)).toMatchObject({ logged: 3, back: 3 })
    // What was logged is in the activity, and not kept a second time.
    expect(await rows(sql`select 1 from call_results where status = 'logged' and content <> '{}'`)).toEqual([])
  })

  it('in a file that is no list of results are refused as a whole, with the reason', async () => {
    const { exportId } = await handedOver(1)
    const refused = async (content: string) => {
      const { status, body } = await sendFile(exportId, content)
      expect(status).toBe(400)
      return body.error!.message
    }
    expect(await refused('')).toContain('empty')
    expect(await refused('a,b\n1,2')).toContain('name the columns')
    expect(await refused('number,outcome\n')).toContain('no results')
    expect(await refused('{"results": 3}')).toContain('no list of results')
    expect(await refused('[{"id": ')).toContain('JSON')
    expect(await refused('number,outcome\n"1,2')).toContain('quote')
    const big = await sendFile(exportId, 'x'.repeat(6_000_000))
    expect(big.status).toBe(413)
    const json = await sendFile(exportId, JSON.stringify({ results: [{ number: '12', outcome: 'Busy' }] }))
    expect(json.body).toEqual({ rows: 1 })
    expect(await unreadable(exportId)).toMatchObject([{ field: 'number', error: 'This is no phone number' }])
  })

  it('of people who were removed, merged or erased meanwhile are logged with who they are now, or kept', async () => {
    const { id, exportId, ids } = await handedOver(3)
    const handed = await people(exportId)
    await db().query(sql`update call_block_people set removed_at = world_now() where prospect_id = $1`, [ids[0]])
    await db().query(sql`update prospects set merged_into = $2 where id = $1`, [ids[1], ids[0]])
    const { name } = await team.asManager.ok(getProspect, { params: { id: ids[2]! } })
    await sendFile(exportId, JSON.stringify([{ id: handed[2]!.id, outcome: 'no such' }]))
    await team.asManager.ok(erasePerson, { params: { id: ids[2]! }, body: { id: randomUUID(), name } })
    expect(await unreadable(exportId)).toEqual([])
    await send(exportId, [
      { id: handed[0]!.id, outcome: 'No answer' },
      { id: handed[1]!.id, outcome: 'Busy' },
    ])
    expect(await listed(id)).toMatchObject({ logged: 2, unreadable: 0 })
    const { entries } = await team.asRep.ok(prospectHistory, { params: { id: ids[0]! } })
    expect(entries.map(({ title }) => title)).toEqual(expect.arrayContaining(['Call: Busy', 'Call: No answer']))
    const csv = await (await team.asManager.raw('GET', `/api/call-exports/${exportId}/file`)).text()
    expect(csv).not.toContain(handed[2]!.number)
  })
})
