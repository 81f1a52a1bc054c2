import { DateTime } from 'luxon'
import { describe, expect, it } from 'vitest'
import { evolve } from '../../../core/engine/state/effects'
import { explain } from '../../../core/engine/explain'
import { ofProspect } from '../../../core/engine/state/engineState'
import { world } from '../../fixtures/eventWorld'
import { NOW, playbook } from '../../fixtures/engineStates'

const DAY = 86_400_000
const TIME_ZONE = 'America/New_York'
type World = ReturnType<typeof world>
const at = (iso: string) => DateTime.fromISO(iso, { zone: TIME_ZONE }).toMillis()
const log = (one: World, outcomeId: string, details = {}, call: 'here' | 'elsewhere' | null = 'here') =>
  one.happen({ kind: 'callLogged', prospectId: 'ann', outcomeId, taskId: null, phoneId: null, call, details } as never)
const open = (one: World, who = 'ann') => ofProspect(one.now, 'task', who).filter((task) => task.status === 'open')
const plans = (one: World) =>
  open(one).map((task) => [
    task.title,
    DateTime.fromMillis(task.dueAt, { zone: TIME_ZONE }).toFormat('yyyy-MM-dd HH:mm'),
  ])

describe('a prospect who is added', () => {
  it('waits for a first contact at once, which a call does', () => {
    const one = world()
    one.happen({ kind: 'prospectAdded', prospectId: 'ann' } as never)
    expect(open(one)).toMatchObject([{ kind: 'first_contact', priority: 3, dueAt: NOW, ownerId: 'rep' }])
    log(one, 'noAnswer')
    expect(ofProspect(one.now, 'task', 'ann').find((task) => task.kind === 'first_contact')).toMatchObject({
      status: 'done',
    })
  })
  it('waits for it no longer once they are in a cadence', () => {
    const one = world()
    one.happen({ kind: 'prospectAdded', prospectId: 'ann' } as never)
    one.happen({ kind: 'enrolled', prospectId: 'ann', cadenceId: 'mixed' } as never)
    expect(open(one)).toEqual([])
  })
  it('gets nothing more where a next action is there', () => {
    const one = world()
    one.happen({ kind: 'prospectAdded', prospectId: 'ann' } as never)
    one.happen({ kind: 'nextActionMissing', prospectId: 'ann' } as never)
    expect(open(one)).toHaveLength(1)
  })
})

describe('a next action that no user chose', () => {
  it('is another try two business days after a call that was not answered, over a weekend and a holiday', () => {
    const one = world({ ...playbook(), holidays: { US: { '2026-11-26': 'Thanksgiving Day' } } })
    one.at(at('2026-11-25T15:00'))
    log(one, 'noAnswer')
    expect(plans(one)).toEqual([['Try again', '2026-11-30 15:00']])
  })
  it('comes by the touch goal of their lists where that is sooner than the team’s days', () => {
    const one = world()
    one.put({ touchGoals: { ann: { amount: 10, unit: 'days' } } })
    log(one, 'wrongNumber')
    // Ten days from Monday, November 23 is Thursday, December 3.
    expect(plans(one)).toEqual([['Follow up', '2026-12-03 10:42']])
  })
  it('is never on a weekend, a holiday or outside calling hours', () => {
    const one = world({ ...playbook(), holidays: { US: { '2026-12-25': 'Christmas Day' } } })
    one.at(at('2026-11-25T19:30'))
    log(one, 'wrongNumber')
    // Thirty days on is Christmas, a Friday; then comes the weekend.
    expect(plans(one)).toEqual([['Follow up', '2026-12-28 08:00']])
  })
})

describe('a newer plan', () => {
  it('takes the place of the one before, and says so', () => {
    const one = world()
    log(one, 'lost', { reason: 'no budget' })
    expect(plans(one)).toEqual([['Ask again', '2027-01-07 10:42']])
    const before = one.now
    const { effects } = log(one, 'callBack', { callBackAt: at('2026-11-24T15:30') })
    expect(plans(one)).toEqual([['Call back as agreed', '2026-11-24 15:30']])
    const says = explain(effects, 'ann', before, evolve(before, effects), playbook(), {
      timeZone: TIME_ZONE,
      dateStyle: 'us',
      now: NOW,
    })
    expect(says).toContain('Instead of “Ask again”')
  })
  it('is a booked meeting, which leaves no call to be made before', () => {
    const one = world()
    log(one, 'callBack', { callBackAt: NOW + DAY })
    log(one, 'booked', { meeting: { title: 'Look', startAt: NOW + 2 * DAY, minutes: 30, timeZone: TIME_ZONE } })
    expect(open(one).map((task) => task.kind)).toEqual(['meeting_result'])
  })
  it('is undone with what it replaced', () => {
    const one = world()
    log(one, 'lost', { reason: 'no budget' })
    const { effects } = log(one, 'callBack', { callBackAt: NOW + DAY })
    one.undo(effects, 'ann')
    expect(plans(one)).toEqual([['Ask again', '2027-01-07 10:42']])
  })
})

describe('a closed stage', () => {
  it('ends cadences and takes all plans back', () => {
    const one = world()
    one.happen({
      kind: 'taskPlanned',
      prospectId: 'ann',
      task: 'call',
      title: 'Call',
      dueAt: NOW + DAY,
      ownerId: null,
    } as never)
    one.happen({ kind: 'enrolled', prospectId: 'ann', cadenceId: 'mixed' } as never)
    one.happen({
      kind: 'stageMoved',
      prospectId: 'ann',
      to: 'closed',
      reason: 'gone',
      note: null,
      override: null,
    } as never)
    expect(open(one)).toEqual([])
    expect(one.enrollment('ann').status).toBe('ended')
  })
})

describe('an outcome without a call', () => {
  const strict = { ...playbook(), countsUncalled: false }
  it('is no attempt, so four of them leave the stage alone; calls made elsewhere count', () => {
    const one = world(strict)
    for (let times = 0; times < 4; times++) log(one, 'noAnswer', {}, null)
    expect(one.now.prospect.ann!.stageId).toBe('attempting')
    // They are tried again soon all the same.
    expect(plans(one)).toEqual([['Try again', '2026-11-25 10:42']])
    for (let times = 0; times < 3; times++) log(one, 'noAnswer', {}, 'elsewhere')
    expect(one.now.prospect.ann!.stageId).toBe('unreached')
  })
  it('counts where the team allows it', () => {
    const one = world()
    for (let times = 0; times < 3; times++) log(one, 'noAnswer', {}, null)
    expect(one.now.prospect.ann!.stageId).toBe('unreached')
  })
  it('is a conversation all the same where they were spoken to', () => {
    const one = world(strict)
    log(one, 'callBack', { callBackAt: NOW + DAY }, null)
    expect(ofProspect(one.now, 'touch', 'ann')).toMatchObject([{ countsAs: 'conversation' }])
  })
})

describe('a gate that demands a reason', () => {
  it('takes the outcome for it where the outcome asks for none', () => {
    const book = playbook()
    const one = world({
      ...book,
      stages: { ...book.stages, closed: { ...book.stages.closed!, gate: { reason: true } } },
    })
    expect(log(one, 'referral', { referral: { firstName: 'Eve', lastName: '' } }).problems).toEqual([])
    expect(one.now.prospect.ann!.stageId).toBe('closed')
  })
})
