import { describe, expect, it } from 'vitest'
import { TASK_KINDS, valuesOf, type OutcomeUse } from '../../../core/enumerations'
import { evolve } from '../../../core/engine/state/effects'
import type { OutcomeDetails } from '../../../core/engine/state/events'
import { react } from '../../../core/engine/react'
import { useOf } from '../../../core/engine/taskOutcome'
import { undoEffects } from '../../../core/engine/undo'
import type { EngineState, Task } from '../../../core/engine/state/engineState'
import type { ConfiguredAction, Playbook } from '../../../core/engine/state/playbook'
import { counter, NOW, playbook, state } from '../../fixtures/engineStates'

const about = { id: 'e', at: NOW, prospectId: 'ann', actorId: 'rep', causedByEventId: null }
/** Ann with one task in hand. */
const inHand = (kind: Task['kind'], rest: Partial<Task> = {}): EngineState => {
  const task = { id: 't', prospectId: 'ann', ownerId: 'rep', kind, status: 'open' as const, dueAt: NOW, priority: 2 }
  const more = { title: '', doneAt: null, enrollmentId: null, stepId: null, messageId: null, timeZone: 'UTC' }
  return { ...state(), task: { t: { ...task, ...more, ...rest } } }
}
const done = (before: EngineState, outcomeId?: string, details?: OutcomeDetails, book = playbook()) => {
  const event = { ...about, kind: 'taskDone' as const, taskId: 't', ...(outcomeId && { outcomeId, details }) }
  const reaction = react(event, before, book, counter())
  return { ...reaction, after: evolve(before, reaction.effects) }
}
const touches = (after: EngineState) => Object.values(after.touch).filter(({ prospectId }) => prospectId === 'ann')
const withOutcome = (usedFor: OutcomeUse[], actions: ConfiguredAction[]): Playbook => {
  const book = playbook()
  return { ...book, outcomes: { ...book.outcomes, own: { ...book.outcomes.noAnswer!, id: 'own', usedFor, actions } } }
}

describe('a reply with an outcome', () => {
  it('is done, does what the outcome says, and counts as no call', () => {
    const { problems, after } = done(inHand('reply'), 'lost', { reason: 'No budget' })
    expect(problems).toEqual([])
    expect(after.task.t!.status).toBe('done')
    expect(after.prospect.ann!.stageId).toBe('lost')
    expect(Object.values(after.task).filter(({ status }) => status === 'open')).toMatchObject([{ title: 'Ask again' }])
    expect(touches(after)).toMatchObject([
      { kind: 'task', countsAs: 'none', outcomeId: 'lost', reason: 'No budget', phoneId: null },
    ])
  })
  it('asks for what the outcome requires, and does nothing before', () => {
    const { problems, effects } = done(inHand('reply'), 'lost')
    expect(problems.map(({ field }) => field)).toEqual(['reason'])
    expect(effects).toEqual([])
  })
  it('leaves the numbers as they are', () => {
    const { after } = done(inHand('reply'), 'wrongNumber')
    expect(after.phone['ann#']!.status).toBe('unverified')
  })
  it('can be undone', () => {
    const before = inHand('reply')
    const { effects, after } = done(before, 'booked', {
      meeting: { title: 'Look', startAt: NOW + 172_800_000, minutes: 30, timeZone: 'UTC' },
    })
    expect(after.prospect.ann!.stageId).toBe('meeting')
    const { effects: back } = undoEffects([...effects].reverse(), after, {})
    expect(evolve(after, back)).toMatchObject({ prospect: before.prospect, task: before.task })
  })
})

describe('a to-do with an outcome', () => {
  const calls = (book: Playbook) => book.cadences.mixed!
  const atStep = (kind: Task['kind']): EngineState => {
    const step = calls(playbook()).steps.find((one) => one.kind === 'task') ?? calls(playbook()).steps[0]!
    const enrollment = {
      id: 'n',
      prospectId: 'ann',
      cadenceId: 'mixed',
      stepId: step.id,
      status: 'active' as const,
      dueAt: null,
      byId: 'rep',
      startedAt: NOW,
      endedAt: null,
      exit: null,
    }
    const before = inHand(kind, { enrollmentId: 'n', stepId: step.id })
    return { ...before, enrollment: { n: enrollment } } as EngineState
  }
  it('lets the cadence that waited for it go on, unless the outcome ends it', () => {
    const on = done(atStep('task'), 'own', {}, withOutcome(['task'], []))
    expect(on.problems).toEqual([])
    expect(on.after.enrollment.n!.stepId).not.toBe(atStep('task').enrollment.n!.stepId)
    const ends: ConfiguredAction & Record<string, unknown> = { type: 'exit', scope: 'all', as: 'not_a_fit' }
    const left = done(atStep('task'), 'own', {}, withOutcome(['task'], [ends]))
    expect(left.after.enrollment.n).toMatchObject({ status: 'ended', exit: 'not_a_fit' })
  })
  it('goes on one step where the outcome says to go on', () => {
    const plain = done(atStep('task'), 'own', {}, withOutcome(['task'], []))
    const moved = done(atStep('task'), 'own', {}, withOutcome(['task'], [{ type: 'advance' }]))
    expect(moved.after.enrollment.n).toEqual(plain.after.enrollment.n)
  })
})

describe('an outcome that archives', () => {
  it('ends what is under way and plans nothing more; logged once more, nothing follows', () => {
    const book = withOutcome(['task'], [{ type: 'archive' }])
    const { effects, after } = done(inHand('task'), 'own', {}, book)
    expect(after.prospect.ann!.status).toBe('archived')
    expect(Object.values(after.task).filter(({ status }) => status === 'open')).toEqual([])
    const { effects: back } = undoEffects([...effects].reverse(), after, {})
    expect(evolve(after, back)).toMatchObject({ prospect: state().prospect, task: inHand('task').task })
    const archived = { ...after, task: inHand('task').task }
    const again = done(archived, 'own', {}, book)
    expect(again.effects.filter(({ kind }) => kind === 'setProspectStatus')).toEqual([])
  })
})

describe('what is planned otherwise', () => {
  const withPlan = (kind: Task['kind']): EngineState => {
    const before = inHand(kind)
    const plan = { ...before.task.t!, id: 'plan', kind: 'first_contact' as const, dueAt: NOW + 1_000 }
    return { ...before, task: { ...before.task, plan } }
  }
  it('stays after a to-do with an outcome; after a reply it is off', () => {
    const book = withOutcome(['reply', 'task'], [])
    expect(done(withPlan('task'), 'own', {}, book).after.task.plan!.status).toBe('open')
    expect(done(withPlan('reply'), 'own', {}, book).after.task.plan!.status).toBe('cancelled')
  })
})

describe('an outcome', () => {
  it('is refused on work that it is not used for', () => {
    const book = withOutcome(['call'], [])
    for (const kind of ['reply', 'task'] as const) {
      expect(done(inHand(kind), 'own', {}, book).problems.map(({ field }) => field)).toEqual(['outcome'])
    }
    expect(done(inHand('call'), 'own', {}, withOutcome(['call', 'reply', 'task'], [])).problems).toHaveLength(1)
    expect(done(inHand('task'), 'nobody').problems).toHaveLength(1)
  })
  it('of calls is for all work that is neither a reply nor a to-do', () => {
    const uses = Object.fromEntries(valuesOf(TASK_KINDS).map((kind) => [kind, useOf(kind)]))
    expect(uses).toEqual({
      first_contact: 'call',
      call: 'call',
      task: 'task',
      call_back: 'call',
      reply: 'reply',
      follow_up: 'call',
      email: 'task',
      text: 'task',
      social: 'task',
      meeting: 'task',
      check_mail: 'call',
      meeting_result: 'call',
    })
    expect(useOf(null)).toBe('call')
  })
})
