import { describe, expect, it } from 'vitest'
import { ofProspect } from '../../../core/engine/state/engineState'
import { whyInWords } from '../../../core/queue/why'
import { NOW } from '../../fixtures/engineStates'
import { world } from '../../fixtures/eventWorld'

const missed = (rangFor: string | null = null) =>
  ({ kind: 'callMissed', prospectId: 'ann', phoneId: 'ann#', rangFor, actorId: null }) as never

const abandoned = { kind: 'callAbandoned', prospectId: 'ann', phoneId: 'ann#', blockId: 'block', dialedFor: 'other' }

describe('a call that was answered while no caller was free', () => {
  it('is called back at once by whom it was dialed for, once however often it happens', () => {
    const now = world()
    now.happen({ kind: 'prospectAdded', prospectId: 'ann' } as never)
    expect(now.happen(abandoned as never).problems).toEqual([])
    now.happen(abandoned as never)
    expect(now.tasks('ann')).toEqual(['call_back'])
    const [task] = ofProspect(now.now, 'task', 'ann').filter((one) => one.status === 'open')
    expect(task).toMatchObject({ dueAt: NOW, ownerId: 'other' })
    const facts = { ...task!, step: null, steps: null, attempts: 0, everReached: false }
    expect(whyInWords(facts, NOW + 60_000)).toBe('answered just now, no caller was free')
  })

  it('plans nothing for who asked for no calls meanwhile, and refuses a number of someone else', () => {
    const now = world()
    now.happen({ kind: 'stopSet', prospectId: 'ann', channel: 'call', on: true } as never)
    const before = now.tasks('ann')
    now.happen(abandoned as never)
    expect(now.tasks('ann')).toEqual(before)
    const { problems } = now.happen({ ...abandoned, phoneId: 'ben#' } as never)
    expect(problems).toEqual(['There is no such number'])
  })
})

describe('a call that nobody answered', () => {
  it('is called back at once by who it rang for, who is notified', () => {
    const now = world()
    now.happen({ kind: 'prospectAdded', prospectId: 'ann' } as never)
    const { problems } = now.happen(missed())
    expect(problems).toEqual([])
    // The first contact that was planned gives way.
    expect(now.tasks('ann')).toEqual(['call_back'])
    const [task] = ofProspect(now.now, 'task', 'ann').filter((one) => one.status === 'open')
    expect(task).toMatchObject({ dueAt: NOW, ownerId: 'rep' })
    expect(Object.values(now.now.notification)).toMatchObject([{ kind: 'missed_call', userId: 'rep' }])
    const facts = { ...task!, step: null, steps: null, attempts: 0, everReached: false }
    expect(whyInWords(facts, NOW + 7 * 60_000)).toBe('called us 7 min ago')
    expect(whyInWords({ ...facts, title: 'Call back as agreed' }, NOW)).toBe('promised a call back')
  })

  it('makes one call back, however often they call', () => {
    const now = world()
    now.happen(missed('rep'))
    now.happen(missed('rep'))
    expect(now.tasks('ann')).toEqual(['call_back'])
  })

  it('is answered another way where they asked for no calls', () => {
    const now = world()
    now.happen({ kind: 'stopSet', prospectId: 'ann', channel: 'call', on: true } as never)
    now.happen(missed('rep'))
    expect(now.tasks('ann')).toContain('task')
    expect(now.tasks('ann')).not.toContain('call_back')
  })

  it('leaves a cadence as it is', () => {
    const now = world()
    now.happen({ kind: 'enrolled', prospectId: 'ann', cadenceId: 'calls' } as never)
    const before = now.enrollment('ann')
    now.happen(missed('rep'))
    expect(now.enrollment('ann')).toEqual(before)
  })
})
