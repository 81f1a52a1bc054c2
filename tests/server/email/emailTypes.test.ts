import { randomUUID } from 'node:crypto'
import { beforeEach, describe, expect, it } from 'vitest'
import type { EmailType } from '../../../core/enumerations'
import { addCadence, editCadence, getCadence } from '../../../shared/api/cadences/cadences'
import { enroll } from '../../../shared/api/cadences/enrollments'
import { db } from '../../../server/db/pool'
import { sql } from '../../../server/db/sql'
import { withMail } from '../../fixtures/mail'
import { addPeople, freeze, MONDAY } from '../../fixtures/people'
import { stepDraft } from '../../fixtures/steps'
import { withTeam } from '../../fixtures/team'

const team = withTeam()
const { room, work } = withMail()
beforeEach(async () => {
  await freeze(MONDAY)
  room.letters.length = 0
})

/** Enrolls two in a cadence of one email; the second opted out of the types given. Gives why someone was refused. */
async function start(cold: boolean, emailType: EmailType | null, optedOut: EmailType[]) {
  const steps = [stepDraft('email')]
  const name = `Cadence ${randomUUID()}`
  const { id } = await team.asManager.ok(addCadence, { body: { name, steps, cold, emailType } })
  const made = await team.asManager.ok(getCadence, { params: { id } })
  expect(made.emailType).toBe(emailType)
  await team.asManager.ok(editCadence, { params: { id }, body: { ...made, status: 'active' } })
  const { ids } = await addPeople(2, team.rep.id)
  await db().query(
    sql`
      update prospects
      set email_types = array(select unnest(email_types) except select unnest($2::text[]))
      where id = $1
    `,
    [ids[1], optedOut],
  )
  const { refused } = await team.asRep.ok(enroll, { params: { id }, body: { prospectIds: ids } })
  await work()
  return refused.map(({ why }) => why)
}

describe('the type of a cadence’s emails', () => {
  it.each([
    ['cold, without a type', true, null, 'one_to_one', true],
    ['asked for, without a type', false, null, 'requested', false],
    ['marketing', false, 'marketing', 'marketing', true],
    ['requested, though cold', true, 'requested', 'requested', true],
  ] as const)('%s: decides who gets it, and what it carries', async (_, cold, emailType, optedOut, carries) => {
    const words = { one_to_one: 'one to one', marketing: 'marketing', requested: 'requested' }[optedOut]
    expect(await start(cold, emailType, [optedOut])).toEqual([`Starts with an email: takes no ${words} email`])
    expect(room.letters).toHaveLength(1)
    const { raw } = room.letters[0]!
    expect(raw.text?.includes('No more mail from us')).toBe(carries)
    expect(raw.headers.has('list')).toBe(carries)
  })
})
