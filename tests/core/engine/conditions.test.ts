import { describe, expect, it } from 'vitest'
import { actionInWords } from '../../../core/actions/registry'
import { namesOf } from '../../../core/actions/kind/define'
import type { Action } from '../../../core/actions/registry'
import type { DomainEvent } from '../../../core/engine/state/events'
import { evolve } from '../../../core/engine/state/effects'
import { react } from '../../../core/engine/react'
import { linkId, waitingActions, type EngineState } from '../../../core/engine/state/engineState'
import type { Filter, Test } from '../../../core/filter/filter'
import type { Facts } from '../../../core/filter/matches'
import { WORLD } from '../../fixtures/filters'
import { counter, NOW, playbook, state } from '../../fixtures/engineStates'

const when = (field: string, test: Test): Filter => ({ all: [{ field, test }] })
const is = (field: string, ...values: string[]) => when(field, { op: 'anyOf', values })
const tag = (where: Filter, rest: object = {}) => ({ type: 'changeTag', on: true, tagId: 'tagged', where, ...rest })

/** Ann's fields as the state has them: what can be set is there as rows, too. */
const fieldRows = (facts: Facts): EngineState['customValue'] =>
  Object.fromEntries(
    Object.entries(facts)
      .filter(([field]) => field === 'source' || field.startsWith('custom:'))
      .map(([field, value]) => [linkId('ann', field), { id: linkId('ann', field), prospectId: 'ann', field, value }]),
  )

/** Logs an outcome with these actions for Ann, of whom this is known; gives the state after it. */
function logged(actions: object[], facts: Facts = {}, given: Partial<EngineState> = {}) {
  const usual = playbook()
  const outcome = { ...usual.outcomes.noAnswer!, id: 'asked', actions: actions as Action[] }
  const book = { ...usual, outcomes: { ...usual.outcomes, asked: outcome } }
  const before = { ...state(), customValue: fieldRows(facts), ...given, facts: { ann: facts } }
  const newId = counter()
  const about = { at: NOW, prospectId: 'ann', actorId: 'rep', causedByEventId: null }
  const event = { ...about, id: 'e', kind: 'callLogged', outcomeId: 'asked', taskId: null, phoneId: null, details: {} }
  const reaction = react(event as DomainEvent, before, book, newId)
  expect(reaction.problems).toEqual([])
  return {
    book,
    after: evolve(before, reaction.effects),
    later(at: number, known: Facts) {
      const after = evolve(before, reaction.effects)
      const waiting = { ...after, now: at, customValue: fieldRows(known), facts: { ann: known } }
      const [row] = waitingActions(waiting, 'ann')
      const due = { ...about, at, id: 'due', kind: 'actionDue', delayedActionId: row!.id } as DomainEvent
      const done = react(due, waiting, book, newId)
      return { ...done, after: evolve(waiting, done.effects), row: row! }
    },
  }
}
const isTagged = ({ prospectTag }: EngineState) => prospectTag[linkId('ann', 'tagged')] !== undefined

describe('an action with a filter', () => {
  it.each([
    ['a field that is only read', { source: 'Cheese fair' }, is('source', 'Cheese fair'), true],
    ['a field that is empty', {}, is('source', 'Cheese fair'), false],
    ['a number', { score: 12 }, when('score', { op: 'atLeast', number: 10 }), true],
    ['a field of the company', { companySize: 4 }, when('companySize', { op: 'moreThan', number: 10 }), false],
    ['a custom field', { 'custom:f1': 8 }, when('custom:f1', { op: 'set' }), true],
  ])('is done for who fits alone: %s', (_, facts, where, done) => {
    expect(isTagged(logged([tag(where)], facts).after)).toBe(done)
  })
  it('sees what the outcome and the actions before it have done', () => {
    const attempts = (number: number) => tag(when('attempts', { op: 'equals', number }))
    expect(isTagged(logged([attempts(1)]).after)).toBe(true)
    expect(isTagged(logged([attempts(0)]).after)).toBe(false)
    const moved = [{ type: 'moveStage', to: 'talking' }, tag(is('stage', 'talking'))]
    expect(isTagged(logged(moved, { stage: 'new' }).after)).toBe(true)
    expect(isTagged(logged([tag(is('stage', 'talking'))], { stage: 'new' }).after)).toBe(false)
    const off = { ...tag(when('tags', { op: 'hasAny', values: ['tagged'] })), on: false }
    expect(isTagged(logged([tag({ all: [] }), off]).after)).toBe(false)
  })
  it('sees that a field was cleared before it', () => {
    const cleared = [{ type: 'setField', fieldId: 'source', mode: 'clear' }, tag(when('source', { op: 'unset' }))]
    expect(isTagged(logged(cleared, { source: 'Cheese fair' }).after)).toBe(true)
    expect(isTagged(logged(cleared.slice(1), { source: 'Cheese fair' }).after)).toBe(false)
  })
  it('counts days in the team’s zone, from now', () => {
    const where = when('lastEmail', { op: 'during', span: 'today' })
    expect(isTagged(logged([tag(where)], { lastEmail: NOW - 10 * 3_600_000 }).after)).toBe(true)
    expect(isTagged(logged([tag(where)], { lastEmail: NOW - 11 * 3_600_000 }).after)).toBe(false)
  })
  it('that waits is asked when it is done, and says why it was not', () => {
    const where = is('source', 'Bought')
    const one = logged([tag(where, { after: { amount: 1, unit: 'hours' } })], { source: 'Cheese fair' })
    expect(waitingActions(one.after, 'ann')).toHaveLength(1)
    const at = NOW + 3_600_000
    expect(isTagged(one.later(at, { source: 'Bought' }).after)).toBe(true)
    const { after, effects, row } = one.later(at, { source: 'Cheese fair' })
    expect(isTagged(after)).toBe(false)
    expect(after.delayedAction[row.id]).toMatchObject({ status: 'skipped' })
    expect(effects.at(-1)!.cause.said).toBe('The prospect does not fit the condition of this action')
  })
  it('is read with its condition, of now or of then', () => {
    const { book } = logged([])
    const where = is('source', WORLD.sources[0]!.id)
    const says = (rest: object) => actionInWords(tag(where, rest) as Action, namesOf(book))
    expect(says({})).toBe('Adds the tag “Hot lead”, if source is "Cheese fair"')
    expect(says({ after: { amount: 2, unit: 'hours' } })).toBe(
      'Adds the tag “Hot lead” in 2 hours, if then source is "Cheese fair"',
    )
  })
  it('cannot be done by a state that was read without what it asks', () => {
    expect(() => logged([tag(is('source', 'Bought'))], undefined, {})).not.toThrow()
    const usual = playbook()
    const outcome = { ...usual.outcomes.noAnswer!, actions: [tag(is('source', 'x'))] as Action[] }
    const about = { id: 'e', at: NOW, prospectId: 'ann', actorId: 'rep', causedByEventId: null }
    const event = { ...about, kind: 'callLogged', outcomeId: 'noAnswer', taskId: null, phoneId: null, details: {} }
    const book = { ...usual, outcomes: { noAnswer: outcome } }
    expect(() => react(event as DomainEvent, state(), book, counter())).toThrow('was not read')
  })
})
