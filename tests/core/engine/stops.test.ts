import { describe, expect, it } from 'vitest'
import { ofProspect, openEnrollments } from '../../../core/engine/state/engineState'
import { NOW, playbook } from '../../fixtures/engineStates'
import { world } from '../../fixtures/eventWorld'

const HOUR = 3_600_000
const DAY = 24 * HOUR

describe('a step that is deleted', () => {
  const without = (position: number, next: number | null) => {
    const book = playbook()
    const { calls, mixed } = book.cadences
    const deleted = mixed!.steps[position]!
    return {
      ...book,
      cadences: {
        calls: calls!,
        mixed: {
          ...mixed!,
          steps: mixed!.steps.filter((step) => step !== deleted).map((step, index) => ({ ...step, position: index })),
          deleted: { [deleted.id]: next === null ? null : mixed!.steps[next]!.id },
        },
      },
    }
  }
  it('sends enrollments at it on to the next step, not out of the cadence', () => {
    const one = world()
    one.happen({ kind: 'enrolled', prospectId: 'ann', cadenceId: 'mixed' } as never)
    one.due('ann')
    const messageId = ofProspect(one.now, 'emailMessage', 'ann')[0]!.id
    const two = world(without(0, 1))
    two.put(one.now)
    two.happen({ kind: 'emailSent', prospectId: 'ann', messageId } as never)
    expect(two.enrollment('ann')).toMatchObject({ status: 'waiting', stepId: 'mixed-1' })
  })
  it('is passed over by enrollments that wait for it', () => {
    const one = world()
    one.happen({ kind: 'enrolled', prospectId: 'ann', cadenceId: 'mixed' } as never)
    const two = world(without(0, 1))
    two.put(one.now)
    two.due('ann')
    expect(two.enrollment('ann')).toMatchObject({ status: 'active', stepId: 'mixed-1' })
    expect(two.tasks('ann')).toEqual(['call'])
  })
  it('finishes enrollments that wait for it where it was the last', () => {
    const one = world()
    one.happen({ kind: 'enrolled', prospectId: 'ann', cadenceId: 'mixed' } as never)
    const row = one.enrollment('ann')
    one.put({ enrollment: { [row.id]: { ...row, stepId: 'mixed-3' } } })
    const two = world(without(3, null))
    two.put(one.now)
    two.due('ann')
    expect(two.enrollment('ann')).toMatchObject({ status: 'ended', exit: 'finished' })
  })
})

describe('people who are paused or archived', () => {
  it.each(['paused', 'archived'] as const)(
    '(%s) get nothing more: cadences end, email and work are taken back, nothing new begins',
    (to) => {
      const one = world()
      one.happen({ kind: 'enrolled', prospectId: 'ann', cadenceId: 'mixed' } as never)
      one.due('ann')
      one.happen({
        kind: 'taskPlanned',
        prospectId: 'ann',
        task: 'call',
        title: 'Ring',
        dueAt: NOW + DAY,
        ownerId: null,
      } as never)
      one.happen({ kind: 'prospectStatusSet', prospectId: 'ann', to, reason: 'retired' } as never)
      expect(one.enrollment('ann').status).toBe('ended')
      expect(one.tasks('ann')).toEqual([])
      expect(one.messages('ann')).toEqual(['cancelled'])
      const word = to === 'archived' ? 'archived' : 'paused'
      expect(one.happen({ kind: 'enrolled', prospectId: 'ann', cadenceId: 'calls' } as never).problems).toEqual([
        `ann X is ${word}`,
      ])
      expect(
        one.happen({
          kind: 'taskPlanned',
          prospectId: 'ann',
          task: 'task',
          title: 'x',
          dueAt: NOW + DAY,
          ownerId: null,
        } as never).problems,
      ).toEqual([`ann X is ${word}`])
      expect(
        one.happen({ kind: 'emailWritten', prospectId: 'ann', messageId: 'm', taskId: null } as never).problems,
      ).toEqual([`ann X is ${word}`])
      // Active again, they are not forgotten.
      one.happen({ kind: 'prospectStatusSet', prospectId: 'ann', to: 'active' } as never)
      expect(one.tasks('ann')).toEqual(['first_contact'])
    },
  )
})

describe('a stop on a company', () => {
  it('takes back email by hand and planned calls of everyone there, and refuses new ones; lifted, nobody is forgotten', () => {
    const one = world()
    one.happen({ kind: 'emailWritten', prospectId: 'ben', messageId: 'm1', taskId: null } as never)
    one.happen({
      kind: 'emailWritten',
      prospectId: 'cy',
      messageId: 'm2',
      taskId: null,
      many: { sendAt: NOW + DAY },
    } as never)
    one.happen({
      kind: 'taskPlanned',
      prospectId: 'cy',
      task: 'call',
      title: 'Ring',
      dueAt: NOW + DAY,
      ownerId: null,
    } as never)
    one.happen({ kind: 'companyStatusSet', prospectId: 'ann', to: 'do_not_contact' } as never)
    expect([one.messages('ben'), one.messages('cy'), one.tasks('cy')]).toEqual([['cancelled'], ['cancelled'], []])
    expect(
      one.happen({ kind: 'emailWritten', prospectId: 'ben', messageId: 'm3', taskId: null } as never).problems,
    ).toEqual(['Acme Dairy is not to be contacted'])
    one.happen({ kind: 'companyStatusSet', prospectId: 'ann', to: 'open' } as never)
    for (const who of ['ann', 'ben', 'cy']) expect(one.tasks(who)).toEqual(['first_contact'])
  })
})

describe('a step that requires the one before it', () => {
  const book = () => {
    const { cadences, ...rest } = playbook()
    const mixed = cadences.mixed!
    // The first step has none before it: there it says nothing.
    const steps = mixed.steps.map((step) => ({ ...step, requiresPrevious: step.position === 0 || step.position === 2 }))
    return { ...rest, cadences: { ...cadences, mixed: { ...mixed, steps } } }
  }
  /** Ann, whose first email has left and whose call is due. */
  const atCall = () => {
    const one = world(book())
    one.happen({ kind: 'enrolled', prospectId: 'ann', cadenceId: 'mixed' } as never)
    one.due('ann')
    const messageId = ofProspect(one.now, 'emailMessage', 'ann')[0]!.id
    one.happen({ kind: 'emailSent', prospectId: 'ann', messageId } as never)
    return one
  }
  it('follows a call that was logged', () => {
    const one = atCall()
    one.due('ann')
    one.happen({
      kind: 'callLogged',
      prospectId: 'ann',
      outcomeId: 'noAnswer',
      taskId: null,
      phoneId: null,
      details: {},
    } as never)
    one.due('ann')
    expect(one.tasks('ann')).toEqual(['task'])
    expect(one.enrollment('ann')).toMatchObject({ status: 'active', stepId: 'mixed-2' })
  })
  it('is left out, with the reason, where no call could be made', () => {
    const one = atCall()
    one.happen({ kind: 'phoneStatusSet', prospectId: 'ann', phoneId: 'ann#', to: 'wrong' } as never)
    one.due('ann')
    expect(one.enrollment('ann')).toMatchObject({ status: 'waiting', stepId: 'mixed-2' })
    const { effects } = one.due('ann')
    expect(one.enrollment('ann')).toMatchObject({ status: 'waiting', stepId: 'mixed-3' })
    expect(one.tasks('ann')).toEqual([])
    expect(effects.map((effect) => effect.cause)).toEqual([
      {
        source: 'system_rule',
        rule: 'stepLeftOut',
        values: { stepId: 'mixed-2', barrier: 'step_before_not_done' },
      },
    ])
  })
})

describe('work that is done in another way', () => {
  const blockedEmail = () => {
    const one = world()
    one.happen({ kind: 'enrolled', prospectId: 'ann', cadenceId: 'mixed' } as never)
    one.due('ann')
    one.happen({
      kind: 'emailHeld',
      prospectId: 'ann',
      messageId: ofProspect(one.now, 'emailMessage', 'ann')[0]!.id,
    } as never)
    return one
  }
  it('Done on a blocked email goes on without it', () => {
    const one = blockedEmail()
    const task = ofProspect(one.now, 'task', 'ann').find((row) => row.status === 'open')!
    one.happen({ kind: 'taskDone', prospectId: 'ann', taskId: task.id } as never)
    expect(one.messages('ann')).toEqual(['cancelled'])
    expect(one.enrollment('ann')).toMatchObject({ status: 'waiting', stepId: 'mixed-1' })
  })
  it('a call logged meanwhile leaves the email waiting, with the question about it open', () => {
    const one = blockedEmail()
    const task = ofProspect(one.now, 'task', 'ann').find((row) => row.status === 'open')!
    one.happen({
      kind: 'callLogged',
      prospectId: 'ann',
      outcomeId: 'noAnswer',
      taskId: task.id,
      phoneId: null,
      details: {},
    } as never)
    expect([one.messages('ann'), one.tasks('ann'), one.enrollment('ann').status]).toEqual([
      ['held'],
      ['check_mail'],
      'active',
    ])
  })
  it('an outcome that neither advances nor exits leaves no cadence standing still', () => {
    const book = playbook()
    const one = world({
      ...book,
      outcomes: {
        ...book.outcomes,
        spoke: {
          id: 'spoke',
          name: 'Spoke',
          position: 9,
          countsAs: 'conversation',
          usedFor: ['call'],
          requiredInputs: [],
          requiredFields: [],
          reasons: [],
          leavesMessage: false,
          actions: [],
          archived: false,
        },
      },
    })
    one.happen({ kind: 'enrolled', prospectId: 'ann', cadenceId: 'calls' } as never)
    one.due('ann')
    one.happen({
      kind: 'callLogged',
      prospectId: 'ann',
      outcomeId: 'spoke',
      taskId: null,
      phoneId: null,
      details: {},
    } as never)
    expect(one.enrollment('ann')).toMatchObject({ status: 'waiting', stepId: 'calls-1' })
  })
  it('a call back ticked off lets its cadence go on', () => {
    const one = world()
    one.happen({ kind: 'enrolled', prospectId: 'ann', cadenceId: 'calls' } as never)
    one.due('ann')
    one.happen({
      kind: 'callLogged',
      prospectId: 'ann',
      outcomeId: 'callBack',
      taskId: null,
      phoneId: null,
      details: { callBackAt: one.now.now + HOUR },
    } as never)
    expect(one.enrollment('ann').status).toBe('paused')
    const task = ofProspect(one.now, 'task', 'ann').find((row) => row.status === 'open')!
    one.happen({ kind: 'taskDone', prospectId: 'ann', taskId: task.id } as never)
    expect(one.enrollment('ann')).toMatchObject({ status: 'waiting', stepId: 'calls-1' })
  })
  it('a call logged by hand counts for the call step the cadence waits for', () => {
    const one = world()
    one.happen({ kind: 'enrolled', prospectId: 'ann', cadenceId: 'calls' } as never)
    one.due('ann')
    one.happen({
      kind: 'callLogged',
      prospectId: 'ann',
      outcomeId: 'noAnswer',
      taskId: null,
      phoneId: null,
      details: {},
    } as never)
    expect(one.enrollment('ann')).toMatchObject({ status: 'waiting', stepId: 'calls-1' })
    one.happen({
      kind: 'callLogged',
      prospectId: 'ann',
      outcomeId: 'noAnswer',
      taskId: null,
      phoneId: null,
      details: {},
    } as never)
    expect(one.enrollment('ann')).toMatchObject({ status: 'ended', exit: 'finished' })
  })
  it('a meeting that was held is a touch of its own kind', () => {
    const one = world()
    one.happen({
      kind: 'callLogged',
      prospectId: 'ann',
      outcomeId: 'booked',
      taskId: null,
      phoneId: null,
      details: { meeting: { title: 'Look', startAt: NOW + DAY, minutes: 30, timeZone: 'UTC' } },
    } as never)
    const task = ofProspect(one.now, 'task', 'ann').find((row) => row.kind === 'meeting_result')!
    one.happen({ kind: 'taskDone', prospectId: 'ann', taskId: task.id } as never)
    expect(ofProspect(one.now, 'touch', 'ann').map((touch) => [touch.kind, touch.countsAs])).toEqual([
      ['call', 'conversation'],
      ['meeting', 'conversation'],
    ])
  })
  it('an exit from "this cadence" by a call that belongs to none ends no other', () => {
    const one = world()
    one.happen({ kind: 'enrolled', prospectId: 'ann', cadenceId: 'mixed' } as never)
    one.due('ann')
    for (let call = 0; call < 3; call++) {
      one.happen({
        kind: 'callLogged',
        prospectId: 'ann',
        outcomeId: 'noAnswer',
        taskId: null,
        phoneId: null,
        details: {},
      } as never)
    }
    expect(one.enrollment('ann').status).toBe('active')
  })
})

describe('an address or a number that fails', () => {
  it('email that waits for a bounced address goes to the other one, or is taken back', () => {
    const one = world()
    one.put({
      emailAddress: {
        ...one.now.emailAddress,
        second: { id: 'second', prospectId: 'ann', address: 'second@acme.example', status: 'ok', position: 1 },
      },
    })
    one.happen({ kind: 'emailWritten', prospectId: 'ann', messageId: 'm1', taskId: null } as never)
    one.happen({ kind: 'emailSent', prospectId: 'ann', messageId: 'm1' } as never)
    one.happen({ kind: 'emailWritten', prospectId: 'ann', messageId: 'm2', taskId: null } as never)
    one.happen({ kind: 'emailBounced', prospectId: 'ann', messageId: 'm1' } as never)
    expect(one.now.emailMessage.m2).toMatchObject({ status: 'queued', emailAddressId: 'second' })
    one.happen({ kind: 'emailSent', prospectId: 'ann', messageId: 'm2' } as never)
    one.happen({ kind: 'emailWritten', prospectId: 'ann', messageId: 'm3', taskId: null } as never)
    one.happen({ kind: 'emailBounced', prospectId: 'ann', messageId: 'm2' } as never)
    expect(one.now.emailMessage.m3).toMatchObject({ status: 'cancelled' })
  })
  it('the last number marked wrong by hand takes open calls back, and the cadence goes on', () => {
    const one = world()
    one.happen({ kind: 'enrolled', prospectId: 'ann', cadenceId: 'calls' } as never)
    one.due('ann')
    one.happen({ kind: 'phoneStatusSet', prospectId: 'ann', phoneId: 'ann#', to: 'wrong' } as never)
    expect(one.tasks('ann')).toEqual([])
    expect(one.enrollment('ann')).toMatchObject({ status: 'waiting', stepId: 'calls-1' })
    expect(
      one.happen({ kind: 'phoneStatusSet', prospectId: 'ann', phoneId: 'ben#', to: 'wrong' } as never).problems,
    ).toEqual(['There is no such number'])
  })
  it('no call back is planned with a prospect who wants no calls, and nothing is sent to one who opted out', () => {
    const one = world()
    one.happen({ kind: 'stopSet', prospectId: 'ann', channel: 'call', on: true } as never)
    expect(
      one.happen({
        kind: 'callLogged',
        prospectId: 'ann',
        outcomeId: 'callBack',
        taskId: null,
        phoneId: null,
        details: { callBackAt: NOW + HOUR },
      } as never).problems,
    ).toEqual(['ann X asked for no calls'])
    one.happen({ kind: 'emailWritten', prospectId: 'ben', messageId: 'm', taskId: null } as never)
    one.happen({ kind: 'emailUnconfirmed', prospectId: 'ben', messageId: 'm' } as never)
    one.happen({ kind: 'unsubscribed', prospectId: 'ben' } as never)
    expect(
      one.happen({ kind: 'emailSettled', prospectId: 'ben', messageId: 'm', wentOut: false } as never).problems,
    ).toEqual(['Not sent: asked for no email'])
  })
  it('hours in which no one there may be called skip the call instead of failing', () => {
    const book = playbook()
    // From memory: Sunday is closed to calls in Australia.
    const one = world({ ...book, callHours: { days: [7], from: 600, to: 720 } })
    one.put({
      prospect: { ...one.now.prospect, ann: { ...one.now.prospect.ann!, country: 'AU', timeZone: 'Australia/Sydney' } },
    })
    one.happen({ kind: 'enrolled', prospectId: 'ann', cadenceId: 'calls' } as never)
    one.due('ann')
    expect(one.enrollment('ann')).toMatchObject({ status: 'waiting', stepId: 'calls-1' })
  })
})

describe('a company-wide outcome', () => {
  it('is not refused because a gate holds one colleague back; that one stays where they are', () => {
    const book = playbook()
    const one = world({
      ...book,
      stages: { ...book.stages, closed: { ...book.stages.closed!, gate: { attempts: 1, fields: ['title'] } } },
    })
    const { ann, cy } = one.now.prospect
    one.put({ prospect: { ...one.now.prospect, ann: { ...ann!, title: 'Owner' }, cy: { ...cy!, title: 'Buyer' } } })
    expect(
      one.happen({
        kind: 'callLogged',
        prospectId: 'ann',
        outcomeId: 'notFit',
        taskId: null,
        phoneId: null,
        details: {},
      } as never).problems,
    ).toEqual([])
    // What Ann said counts for her colleagues; a title that is missing does not come by it.
    expect(['ann', 'ben', 'cy'].map((id) => one.now.prospect[id]!.stageId)).toEqual(['closed', 'new', 'closed'])
    expect(one.now.company.acme!.status).toBe('not_a_fit')
  })
})

describe('undoing', () => {
  it('restores nothing for a prospect who has been stopped since', () => {
    const one = world()
    one.happen({ kind: 'enrolled', prospectId: 'ann', cadenceId: 'calls' } as never)
    one.due('ann')
    const lost = one.happen({
      kind: 'callLogged',
      prospectId: 'ann',
      outcomeId: 'lost',
      taskId: null,
      phoneId: null,
      details: { reason: 'no need' },
    } as never)
    one.happen({ kind: 'stopSet', prospectId: 'ann', channel: 'all', on: true } as never)
    const { skipped } = one.undo(lost.effects, 'ann')
    expect(openEnrollments(one.now, 'ann')).toEqual([])
    expect(one.tasks('ann')).toEqual([])
    expect(skipped.join()).toContain('ann X is not to be contacted: nothing is planned again')
  })
  it('does not open a cadence a second time, nor work of one that stays ended', () => {
    const one = world()
    one.happen({ kind: 'enrolled', prospectId: 'ann', cadenceId: 'calls' } as never)
    one.due('ann')
    const taken = one.happen({ kind: 'unenrolled', prospectId: 'ann', enrollmentId: one.enrollment('ann').id } as never)
    one.happen({ kind: 'enrolled', prospectId: 'ann', cadenceId: 'calls' } as never)
    const { skipped } = one.undo(taken.effects, 'ann')
    expect(openEnrollments(one.now, 'ann')).toHaveLength(1)
    expect(skipped).toContain('The person has entered the cadence again and stays in it once')
    const open = ofProspect(one.now, 'task', 'ann').filter((task) => task.status === 'open' && task.enrollmentId)
    expect(open.every((task) => one.now.enrollment[task.enrollmentId!]!.status !== 'ended')).toBe(true)
  })
  it('leaves nobody without a next action', () => {
    const one = world()
    const enrolled = one.happen({ kind: 'enrolled', prospectId: 'ann', cadenceId: 'calls' } as never)
    one.undo(enrolled.effects, 'ann')
    expect(one.tasks('ann')).toEqual(['first_contact'])
  })
})
