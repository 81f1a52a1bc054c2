import { randomUUID } from 'node:crypto'
import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { beforeEach, describe, expect, it } from 'vitest'
import { readAudio, writeWav } from '../../../core/audio/audioLength'
import { callState, dial, hangUp, logOutcome } from '../../../shared/api/desk/desk'
import { erasePerson } from '../../../shared/api/prospects'
import { prospectHistory } from '../../../shared/api/events/history'
import { editRecordingSettings, getRecordingSettings, stopRecording } from '../../../shared/api/settings/recording'
import { db } from '../../../server/db/pool'
import { sql } from '../../../server/db/sql'
import { deleteOldRecordings, fetchRecording, recordingReady } from '../../../server/services/recordings/recordings'
import { withExchange } from '../../fixtures/exchange'
import { addPeople, freeze, MONDAY, outcomeId, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'

const team = withTeam()
const DAY = 86_400_000
const exchange = withExchange(team)

beforeEach(async () => {
  await freeze(MONDAY)
  exchange.connect()
  await team.asManager.ok(editRecordingSettings, { body: { recordsCalls: true, keptDays: 30 } })
})

let people = 0
/** A call by the rep that is answered; `end` hangs up and logs it. */
async function call() {
  const number = `+1607555${String(300 + people++).padStart(4, '0')}`
  const [prospectId] = (await addPeople(1, team.rep.id)).ids as [string]
  await db().query(sql`update phones set number = $2 where prospect_id = $1`, [prospectId, number])
  await fetch(`${process.env.LINE_URL}/numbers/${encodeURIComponent(number)}`, { method: 'PUT', body: 'answered' })
  const made = await team.asRep.ok(dial, { body: { id: randomUUID(), prospectId } })
  const params = { id: made.id }
  const answered = () =>
    expect.poll(async () => (await team.asRep.ok(callState, { params })).status, { interval: 10 }).toBe('answered')
  const end = async () => {
    await team.asRep.ok(hangUp, { params })
    const body = { id: randomUUID(), outcomeId: await outcomeId('Interested') }
    await team.asRep.ok(logOutcome, { params: { id: prospectId }, body })
  }
  return { ...made, prospectId, answered, end }
}
const recordingIs = async (id: string) =>
  (await rows<{ recording: string | null }>(sql`select recording from calls where id = $1`, [id]))[0]!.recording
/** Waits until the exchange has said that it has a recording. */
const ready = (id: string) => expect.poll(() => recordingIs(id), { timeout: 5_000, interval: 20 }).toBe('ready')
const recordings = async (as: typeof team.asRep, prospectId: string) =>
  (await as.ok(prospectHistory, { params: { id: prospectId } })).entries.flatMap((entry) => entry.recording ?? [])

describe('the recording of a call', () => {
  it('is off unless a manager turns it on', async () => {
    await team.asRep.refused(editRecordingSettings, 403, { body: { recordsCalls: true, keptDays: 30 } })
    for (const keptDays of [0, 731, 1.5, null]) {
      const error = await team.asManager.refused(editRecordingSettings, 400, { body: { recordsCalls: true, keptDays } })
      expect(error.problems).toMatchObject([{ field: 'keptDays' }])
    }
    await team.asManager.ok(editRecordingSettings, { body: { recordsCalls: false, keptDays: 30 } })
    const made = await call()
    expect(made.recorded).toBe(false)
    await made.answered()
    await made.end()
    expect(await recordingIs(made.id)).toBeNull()
    expect((await team.asRep.ok(getRecordingSettings, {})).recordsCalls).toBe(false)
  })

  it('is fetched when the call is over, heard in the activity, and deleted at the exchange', async () => {
    const made = await call()
    expect(made.recorded).toBe(true)
    await made.answered()
    await made.end()
    await ready(made.id)
    await fetchRecording(made.id)
    expect(await recordingIs(made.id)).toBe('saved')
    expect(await recordings(team.asManager, made.prospectId)).toMatchObject([{ callId: made.id }])
    const heard = await team.asManager.raw('GET', `/api/calls/${made.id}/recording`)
    expect(heard.headers.get('content-type')).toBe('audio/wav')
    expect(readAudio(new Uint8Array(await heard.arrayBuffer()))).toMatchObject({ mediaType: 'audio/wav' })
    // Who does not see the person does not hear it.
    expect((await team.asOther.raw('GET', `/api/calls/${made.id}/recording`)).status).toBe(404)
    const [{ ref }] = (await rows<{ ref: string }>(sql`select line_ref as ref from calls where id = $1`, [
      made.id,
    ])) as [{ ref: string }]
    expect((await fetch(`${process.env.LINE_URL}/calls/${ref}/recording`)).status).toBe(404)
    // Announced and fetched once more, nothing changes.
    await recordingReady(ref)
    await fetchRecording(made.id)
    expect(await recordings(team.asRep, made.prospectId)).toHaveLength(1)
  })

  it('is stopped and deleted where the other side does not want it', async () => {
    const made = await call()
    await made.answered()
    await team.asOther.refused(stopRecording, 404, { params: { id: made.id } })
    await team.asRep.ok(stopRecording, { params: { id: made.id } })
    await made.end()
    expect(await recordingIs(made.id)).toBe('stopped')
    await fetchRecording(made.id)
    expect(await recordings(team.asRep, made.prospectId)).toEqual([])
  })

  it('is deleted after the days that are set, also where they are fewer now, and with the person', async () => {
    const first = await call()
    await first.answered()
    await first.end()
    const second = await call()
    await second.answered()
    await second.end()
    for (const { id } of [first, second]) {
      await ready(id)
      await fetchRecording(id)
    }
    await freeze(MONDAY + 10 * DAY)
    await deleteOldRecordings()
    expect(await recordings(team.asRep, first.prospectId)).toHaveLength(1)
    await team.asManager.ok(erasePerson, {
      params: { id: second.prospectId },
      body: { id: randomUUID(), name: 'tomas bellweather 1' },
    })
    expect(await rows(sql`select 1 from call_recordings where call_id = $1`, [second.id])).toEqual([])
    await team.asManager.ok(editRecordingSettings, { body: { recordsCalls: true, keptDays: 9 } })
    // No longer heard at once, and deleted by the hourly job.
    expect(await recordings(team.asRep, first.prospectId)).toEqual([])
    expect((await team.asRep.raw('GET', `/api/calls/${first.id}/recording`)).status).toBe(404)
    await deleteOldRecordings()
    expect(await recordingIs(first.id)).toBe('deleted')
    expect(await rows(sql`select 1 from call_recordings where call_id = $1`, [first.id])).toEqual([])
  })

  describe('at an exchange that gives something else', () => {
    let server: Server
    let given: { status: number; content: Uint8Array }
    const line = async () => {
      server = createServer((request, response) => {
        if (request.url === '/calls') return response.end(JSON.stringify({ id: randomUUID() }))
        response.writeHead(given.status).end(given.content)
      })
      await new Promise<void>((done) => server.listen(0, '127.0.0.1', done))
      exchange.connect(`http://127.0.0.1:${(server.address() as AddressInfo).port}`)
    }
    /** A call whose recording the exchange has announced. */
    const announced = async () => {
      const [prospectId] = (await addPeople(1, team.rep.id)).ids as [string]
      const { id } = await team.asRep.ok(dial, { body: { id: randomUUID(), prospectId } })
      const [row] = await rows<{ ref: string }>(sql`select line_ref as ref from calls where id = $1`, [id])
      await recordingReady(row!.ref)
      return id
    }
    it('is lost where it is no sound, three hours of it uncompressed, or not there; tried again where it is down', async () => {
      given = { status: 200, content: new TextEncoder().encode('no sound') }
      await line()
      const text = await announced()
      await fetchRecording(text)
      expect(await recordingIs(text)).toBe('lost')
      given = { status: 200, content: writeWav(new Float32Array(26_000_000), 8_000) }
      const long = await announced()
      await fetchRecording(long)
      expect(await recordingIs(long)).toBe('lost')
      given = { status: 404, content: new Uint8Array() }
      const missing = await announced()
      await fetchRecording(missing)
      expect(await recordingIs(missing)).toBe('lost')
      given = { status: 503, content: new Uint8Array() }
      const down = await announced()
      await expect(fetchRecording(down)).rejects.toThrow('The exchange does not answer')
      expect(await recordingIs(down)).toBe('ready')
      await fetchRecording(down, true)
      expect(await recordingIs(down)).toBe('lost')
      server.close()
    })
  })
})
