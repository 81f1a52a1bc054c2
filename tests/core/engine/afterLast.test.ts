import { describe, expect, it } from 'vitest'
import { circleOfCadences } from '../../../core/engine/afterLast'
import { evolve } from '../../../core/engine/state/effects'
import type { DomainEvent } from '../../../core/engine/state/events'
import { breadthOnTheWay } from '../../../core/engine/breadth'
import { react } from '../../../core/engine/react'
import { undoEffects } from '../../../core/engine/undo'
import { linkId, openEnrollments, waitingActions, type EngineState } from '../../../core/engine/state/engineState'
import type { ConfiguredAction, Playbook } from '../../../core/engine/state/playbook'
import { counter, NOW, playbook, state } from '../../fixtures/engineStates'

const action = (type: string, rest: object = {}): ConfiguredAction => ({ type, ...rest })
const tag = action('changeTag', { tagId: 'tagged', on: true })
const start = (cadenceId: string, rest: object = {}) => action('startCadence', { cadenceId, ...rest })

/** Ann at the last step of a cadence of one to-do, behind which this follows; the to-do is done, or she leaves it. */
function through(afterLast: ConfiguredAction[], event: 'taskDone' | 'unenrolled' | 'phoneStatusSet' = 'taskDone') {
  const usual = playbook()
  const [step] = usual.cadences.mixed!.steps.filter(({ kind }) => kind === 'task')
  const kind = event === 'phoneStatusSet' ? ('call' as const) : ('task' as const)
  const short = { ...usual.cadences.mixed!, id: 'short', steps: [{ ...step!, kind, cadenceId: 'short', position: 0 }] }
  const book: Playbook = { ...usual, cadences: { ...usual.cadences, short }, afterLast: { short: afterLast } }
  const newId = counter()
  let now: EngineState = state()
  const happen = (given: object, id: string) => {
    const about = { id, at: NOW, prospectId: 'ann', actorId: 'rep', causedByEventId: null }
    const before = {
      ...now,
      now: Math.max(NOW, openEnrollments(now, 'ann')[0]?.dueAt ?? 0),
      facts: { ann: { score: 5 } },
    }
    const reaction = react({ ...about, ...given, at: before.now } as DomainEvent, before, book, newId)
    expect(reaction.problems).toEqual([])
    now = { ...evolve(before, reaction.effects), now: before.now }
    return { ...reaction, before }
  }
  happen({ kind: 'enrolled', cadenceId: 'short' }, '1')
  const enrollmentId = openEnrollments(now, 'ann')[0]!.id
  happen({ kind: 'stepDue', enrollmentId }, '2')
  const task = Object.values(now.task).find(({ status }) => status === 'open')!
  const more = {
    taskDone: { taskId: task.id },
    unenrolled: { enrollmentId },
    phoneStatusSet: { phoneId: 'ann#', to: 'wrong' },
  }
  const last = happen({ kind: event, ...more[event] }, '3')
  return { ...last, after: now, book, enrollmentId }
}
const isTagged = ({ prospectTag }: EngineState) => prospectTag[linkId('ann', 'tagged')] !== undefined

describe('behind the last step of a cadence', () => {
  it('its actions are done, in order, and said to come from it', () => {
    const { after, effects, enrollmentId } = through([tag, start('calls'), action('assign', { to: 'other' })])
    expect(after.enrollment[enrollmentId]).toMatchObject({ status: 'ended', exit: 'finished' })
    expect(isTagged(after)).toBe(true)
    expect(openEnrollments(after, 'ann').map(({ cadenceId }) => cadenceId)).toEqual(['calls'])
    expect(after.prospect.ann!.ownerId).toBe('other')
    expect(effects.find(({ kind }) => kind === 'addTag')!.cause).toMatchObject({ source: 'cadence', id: 'short' })
  })
  it('nothing is done for who left before', () => {
    const { after } = through([tag], 'unenrolled')
    expect(isTagged(after)).toBe(false)
  })
  it('it is scheduled at once where an event seldom sends anyone on: what it asks is read then', () => {
    const where = { where: { field: 'source', test: { op: 'set' } } }
    const { after, enrollmentId } = through([{ ...tag, ...where } as ConfiguredAction], 'phoneStatusSet')
    expect(after.enrollment[enrollmentId]).toMatchObject({ status: 'ended', exit: 'finished' })
    expect(isTagged(after)).toBe(false)
    expect(waitingActions(after, 'ann')).toMatchObject([{ runAt: after.now, action: { type: 'changeTag', ...where } }])
  })
  it('an action may wait, and may ask who it is for', () => {
    const later = through([start('calls', { after: { amount: 30, unit: 'days' } })])
    const [row] = waitingActions(later.after, 'ann')
    expect(row).toMatchObject({ action: { cadenceId: 'calls' }, outcomeId: null })
    // When it is done, it says that it comes from the cadence, not from an outcome.
    const due = { id: '4', kind: 'actionDue', at: row!.runAt, prospectId: 'ann', actorId: null, causedByEventId: null }
    const event = { ...due, delayedActionId: row!.id } as DomainEvent
    const done = react(event, { ...later.after, now: row!.runAt }, later.book, counter('later'))
    expect(done.effects.find(({ kind }) => kind === 'openEnrollment')!.cause).toEqual({
      source: 'cadence',
      id: 'short',
    })
    const where = (number: number) => ({ where: { field: 'score', test: { op: 'atLeast', number } } })
    expect(isTagged(through([{ ...tag, ...where(5) } as ConfiguredAction]).after)).toBe(true)
    expect(isTagged(through([{ ...tag, ...where(6) } as ConfiguredAction]).after)).toBe(false)
  })
  it('an action that a gate refuses is left out and said; the others are done', () => {
    const { after, skipped } = through([action('moveStage', { to: 'lost' }), tag])
    expect(after.prospect.ann!.stageId).not.toBe('lost')
    expect(isTagged(after)).toBe(true)
    expect(skipped).toEqual(['Lost requires a reason'])
  })
  it('all of it is undone with what led there', () => {
    const { before, after, effects, book } = through([tag, action('moveStage', { to: 'talking' }), start('calls')])
    const undone = undoEffects([...effects].reverse(), after, book.names)
    expect(undone.skipped).toEqual([])
    const back = evolve(after, undone.effects)
    expect(back.enrollment).toEqual(before.enrollment)
    expect(back.prospect).toEqual(before.prospect)
    expect(isTagged(back)).toBe(false)
  })
  it('what must be known for it is asked for', () => {
    const book = { ...playbook(), afterLast: {} }
    expect(breadthOnTheWay({ ...book, cadences: {} })).toEqual({
      colleagues: false,
      records: false,
      filters: [],
      entries: false,
      turns: [],
    })
    const after = { short: [tag, action('setCompanyStatus', { to: 'not_a_fit' })] }
    expect(breadthOnTheWay({ ...book, cadences: {}, afterLast: after })).toMatchObject({
      colleagues: true,
      records: true,
    })
  })
})

describe('cadences that start each other', () => {
  it('are found where that would never end', () => {
    expect(circleOfCadences({})).toBeNull()
    expect(circleOfCadences({ a: [start('b')], b: [tag, start('c')] })).toBeNull()
    expect(circleOfCadences({ a: [start('a')] })).toEqual(['a', 'a'])
    expect(circleOfCadences({ x: [start('a')], a: [start('b')], b: [start('c')], c: [start('a')] })).toEqual([
      'a',
      'b',
      'c',
      'a',
    ])
  })
})
