import { randomUUID } from 'node:crypto'
import { beforeEach, describe, expect, it } from 'vitest'
import { enroll } from '../../../shared/api/cadences/enrollments'
import { cadenceResults } from '../../../shared/api/cadences/results'
import { prospectHistory } from '../../../shared/api/events/history'
import { editTeam, getTeam } from '../../../shared/api/settings/settings'
import { withMail } from '../../fixtures/mail'
import { addPeople, freeze, MONDAY, rows } from '../../fixtures/people'
import { activeCadence, stepDraft } from '../../fixtures/steps'
import { withTeam } from '../../fixtures/team'
import { sql } from '../../../server/db/sql'

const team = withTeam()
const { room, work } = withMail()
const HOUR = 3_600_000
const GUIDE = 'https://thornwick.example/guide?a=1&b=2'
beforeEach(async () => {
  await freeze(MONDAY)
  room.letters.length = 0
})

/** Someone who got an email with a link, and waits at a branch to see whether they click it. */
async function sent() {
  const ways = [
    { id: randomUUID(), name: 'Clicked', when: { type: 'clicked' as const }, ends: false },
    { id: randomUUID(), name: 'Others', when: null, ends: false },
  ]
  const steps = [
    stepDraft('email', { body: `Hello, the guide: ${GUIDE}.` }),
    stepDraft('branch', { ways, endsEarly: true, wait: { amount: 2, unit: 'days', at: null } }),
    stepDraft('call', { name: 'Call the clicker', wayId: ways[0]!.id }),
    stepDraft('task', { name: 'For the others', wayId: ways[1]!.id }),
  ]
  const id = await activeCadence(team.asManager, { steps })
  const { ids } = await addPeople(1, team.rep.id)
  await team.asRep.ok(enroll, { params: { id }, body: { prospectIds: ids } })
  await work()
  const html = String(room.letters.at(-1)!.raw.html)
  const links = [...html.matchAll(/href="([^"]+)"/g)].map((match) => match[1]!.replaceAll('&amp;', '&'))
  return { cadenceId: id, prospectId: ids[0]!, html, links }
}
/** Opens a link of ours where the API is served. */
const open = (link: string) => {
  const { pathname, search } = new URL(link)
  return fetch(`${team.url}${pathname}${search}`, { redirect: 'manual' })
}
const stepOf = async (prospectId: string) =>
  (
    await rows<{ name: string }>(
      sql`
        select s.name
        from enrollments e
          join cadence_steps s on s.id = e.step_id
        where e.prospect_id = $1
      `,
      [prospectId],
    )
  )[0]!.name

describe('a link of an email', () => {
  it('leads where it says, is counted, and ends the wait at a branch', async () => {
    const { cadenceId, prospectId, html, links } = await sent()
    const [guide, optOut] = links as [string, string]
    expect(html).toContain(`>${GUIDE.replaceAll('&', '&amp;')}</a>`)
    expect(new URL(guide).pathname).toMatch(/^\/c\//)
    expect(new URL(optOut).pathname).toMatch(/^\/u\//)
    await freeze(MONDAY + HOUR)
    for (let click = 0; click < 2; click++) {
      const answer = await open(guide)
      expect([answer.status, answer.headers.get('location')]).toEqual([302, GUIDE])
    }
    expect(
      await rows(
        sql`
          select clicks, clicked_url, ms(clicked_at)::float8 as clicked, ms(opened_at)::float8 as opened
          from email_messages
          where prospect_id = $1
        `,
        [prospectId],
      ),
    ).toEqual([{ clicks: 2, clicked_url: GUIDE, clicked: MONDAY + HOUR, opened: MONDAY + HOUR }])
    await work()
    expect(await stepOf(prospectId)).toBe('Call the clicker')
    const { steps } = await team.asManager.ok(cadenceResults, { params: { id: cadenceId } })
    expect(steps[0]!.figures).toMatchObject({ sent: 1, opened: 1, clicked: 1 })
    const { entries } = await team.asRep.ok(prospectHistory, { params: { id: prospectId } })
    expect(entries.filter(({ kind }) => kind === 'emailClicked')).toMatchObject([
      { title: 'Link clicked', body: GUIDE },
    ])
  })
  it('sends those who do not click the other way', async () => {
    const { prospectId } = await sent()
    await freeze(MONDAY + 49 * HOUR)
    await work()
    expect(await stepOf(prospectId)).toBe('For the others')
  })
  it('leads nowhere that we did not write ourselves', async () => {
    const { links, prospectId } = await sent()
    const elsewhere = new URL(links[0]!)
    elsewhere.searchParams.set('to', 'https://else.example/')
    const none = new URL(links[0]!)
    none.searchParams.delete('to')
    for (const link of [elsewhere, none, new URL('/c/nonsense?to=https%3A%2F%2Felse.example', links[0])]) {
      const answer = await open(link.href)
      expect([answer.status, answer.headers.get('location')]).toEqual([404, null])
    }
    expect(await rows(sql`select clicks from email_messages where prospect_id = $1`, [prospectId])).toEqual([
      { clicks: 0 },
    ])
  })
  it('stays as it was written where the team does not count clicks', async () => {
    const now = await team.asManager.ok(getTeam)
    await team.asManager.ok(editTeam, { body: { ...now, countClicks: false } })
    const { links } = await sent()
    expect(links[0]).toBe(GUIDE)
    await team.asManager.ok(editTeam, { body: { ...now, countClicks: true } })
  })
})
