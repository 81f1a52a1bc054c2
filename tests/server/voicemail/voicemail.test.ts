import { randomUUID } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { beforeEach, describe, expect, it } from 'vitest'
import { writeWav } from '../../../core/audio/audioLength'
import { brief, callState, dial } from '../../../shared/api/desk/desk'
import {
  addVoicemailMessage,
  editVoicemailMessage,
  leaveVoicemail,
  listVoicemailMessages,
  removeVoicemailMessage,
  type VoicemailMessage,
} from '../../../shared/api/desk/voicemail'
import { db } from '../../../server/db/pool'
import { sql } from '../../../server/db/sql'
import { withExchange } from '../../fixtures/exchange'
import { addPeople, freeze, MONDAY, rows } from '../../fixtures/people'
import { withTeam } from '../../fixtures/team'

const team = withTeam()
withExchange(team)
const TONE = readFileSync(new URL('../../fixtures/audio/tone.wav', import.meta.url))
const OPUS = readFileSync(new URL('../../fixtures/audio/opus.ogg', import.meta.url))

beforeEach(async () => {
  await freeze(MONDAY)
  await db().query(sql`delete from voicemail_messages`)
})

type Asker = typeof team.asRep
/** Uploads a message as it is. */
async function upload(as: Asker, name: string, content: Uint8Array) {
  const response = await as.raw('POST', `${addVoicemailMessage.path}?name=${encodeURIComponent(name)}`, content)
  return {
    status: response.status,
    body: (await response.json()) as VoicemailMessage & { error?: { message: string } },
  }
}
const listed = async (as: Asker) => (await as.ok(listVoicemailMessages, {})).messages

describe('voicemail messages', () => {
  it('are WAV or OGG files of a user, the first first, renamed, put first and deleted', async () => {
    const tone = await upload(team.asRep, 'Short', TONE)
    expect(tone).toMatchObject({ status: 200, body: { name: 'Short', mediaType: 'audio/wav', seconds: 0.8 } })
    const opus = await upload(team.asRep, 'Long', OPUS)
    expect(opus.body).toMatchObject({ mediaType: 'audio/ogg' })
    expect((await listed(team.asRep)).map(({ name }) => name)).toEqual(['Short', 'Long'])
    const params = { id: opus.body.id }
    await team.asRep.ok(editVoicemailMessage, { params, body: { name: 'After a fair', first: true } })
    expect((await listed(team.asRep)).map(({ name }) => name)).toEqual(['After a fair', 'Short'])
    const heard = await team.asRep.raw('GET', `/api/voicemail-messages/${opus.body.id}`)
    expect(heard.headers.get('content-type')).toBe('audio/ogg')
    expect(Buffer.from(await heard.arrayBuffer())).toEqual(OPUS)
    // Nobody else's.
    expect(await listed(team.asOther)).toEqual([])
    await team.asOther.refused(editVoicemailMessage, 404, { params, body: { name: 'Mine' } })
    await team.asOther.refused(removeVoicemailMessage, 404, { params })
    await team.asRep.ok(removeVoicemailMessage, { params })
    expect((await listed(team.asRep)).map(({ name }) => name)).toEqual(['Short'])
    await team.asRep.refused(removeVoicemailMessage, 404, { params })
  })

  it('last a minute at most', async () => {
    const rate = 1_000
    expect((await upload(team.asRep, 'A minute', writeWav(new Float32Array(60 * rate), rate))).status).toBe(200)
    const over = await upload(team.asRep, 'More', writeWav(new Float32Array(61 * rate), rate))
    expect(over).toMatchObject({
      status: 400,
      body: { error: { message: 'This message is 61 seconds long. At most 60 are left' } },
    })
    // Three hours of it, which are not read to their end.
    const hours = await upload(team.asRep, 'Hours', new Uint8Array(13_000_000))
    expect(hours.status).toBe(400)
    for (const wrong of [new TextEncoder().encode('hello'), new Uint8Array(), writeWav(new Float32Array(), rate)]) {
      expect((await upload(team.asRep, 'Nothing', wrong)).status).toBe(400)
    }
    expect(await listed(team.asRep)).toHaveLength(1)
  })

  it('are ten at most, also of two that are added at once', async () => {
    for (let index = 0; index < 9; index++) await upload(team.asRep, `Message ${index}`, TONE)
    const two = await Promise.all([upload(team.asRep, 'Tenth', TONE), upload(team.asRep, 'Eleventh', TONE)])
    expect(two.map(({ status }) => status).sort()).toEqual([200, 422])
    expect(await rows(sql`select position from voicemail_messages order by 1`)).toHaveLength(10)
  })
})

describe('a message that is left', () => {
  let people = 0
  /** A call by the rep to a number that behaves so; waits until it has answered. */
  async function call(behavior: string) {
    const number = `+1607555${String(200 + people++).padStart(4, '0')}`
    const [prospectId] = (await addPeople(1, team.rep.id)).ids as [string]
    await db().query(sql`update phones set number = $2 where prospect_id = $1`, [prospectId, number])
    await fetch(`${process.env.LINE_URL}/numbers/${encodeURIComponent(number)}`, { method: 'PUT', body: behavior })
    const { id } = await team.asRep.ok(dial, { body: { id: randomUUID(), prospectId } })
    await expect
      .poll(async () => (await team.asRep.ok(callState, { params: { id } })).status, { interval: 10 })
      .toBe(behavior)
    return { id, prospectId }
  }
  const playedOn = async (id: string) => {
    const [row] = await rows<{ ref: string; name: string | null }>(
      sql`
        select c.line_ref as ref, m.name
        from calls c
          left join voicemail_messages m on m.id = c.voicemail_id
        where c.id = $1
      `,
      [id],
    )
    const response = await fetch(`${process.env.LINE_URL}/calls/${row!.ref}/message`)
    return { name: row!.name, content: response.ok ? Buffer.from(await response.arrayBuffer()) : null }
  }

  it('is the first, or the one that is chosen; it plays to its end, once, and the call ends with it', async () => {
    await upload(team.asRep, 'Short', TONE)
    const { body: opus } = await upload(team.asRep, 'Long', OPUS)
    const { id, prospectId } = await call('voicemail')
    const given = { params: { id }, body: {} }
    expect(await team.asRep.ok(leaveVoicemail, given)).toEqual({ name: 'Short', seconds: 0.8 })
    // The answer was lost.
    await team.asRep.ok(leaveVoicemail, given)
    expect(await playedOn(id)).toEqual({ name: 'Short', content: TONE })
    await expect
      .poll(async () => (await team.asRep.ok(callState, { params: { id } })).status, { interval: 10 })
      .toBe('ended')
    const { outcomes } = await team.asRep.ok(brief, { params: { id: prospectId } })
    expect(outcomes.filter((outcome) => outcome.leavesMessage).map(({ name }) => name)).toEqual(['Left voicemail'])

    const second = await call('voicemail')
    await team.asRep.ok(leaveVoicemail, { params: { id: second.id }, body: { messageId: opus.id } })
    expect(await playedOn(second.id)).toEqual({ name: 'Long', content: OPUS })
    // Deleted, it was left all the same.
    await team.asRep.ok(removeVoicemailMessage, { params: { id: opus.id } })
    expect((await playedOn(second.id)).name).toBeNull()
  })

  it('needs a voicemail box on the line, a message, and the caller’s own call', async () => {
    const answered = await call('answered')
    const given = { params: { id: answered.id }, body: {} }
    await team.asRep.refused(leaveVoicemail, 404, given)
    await upload(team.asRep, 'Short', TONE)
    expect((await team.asRep.refused(leaveVoicemail, 409, given)).code).toBe('conflict')
    await upload(team.asOther, 'Theirs', TONE)
    await team.asOther.refused(leaveVoicemail, 404, given)
  })
})
