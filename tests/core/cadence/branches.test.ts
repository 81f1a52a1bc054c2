import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { whatChanges } from '../../../core/cadence/changes'
import { planAll, planFrom } from '../../../core/cadence/plan'
import {
  firstStep,
  nextStep,
  otherwise,
  routeFaults,
  stepBefore,
  stepsFrom,
  stepsTo,
} from '../../../core/cadence/route'
import { everyStep, stepHere, versionAt, type Cadence, type Step, type Way } from '../../../core/cadence/steps'
import { wayInWords } from '../../../core/cadence/ways'
import { evolve } from '../../../core/engine/state/effects'
import type { DomainEvent } from '../../../core/engine/state/events'
import { explain } from '../../../core/engine/explain'
import { causeInWords } from '../../../core/engine/describeEffect'
import { react } from '../../../core/engine/react'
import { ofProspect, openEnrollments, type EngineState } from '../../../core/engine/state/engineState'
import type { Playbook } from '../../../core/engine/state/playbook'
import type { Facts } from '../../../core/filter/matches'
import { counter, NOW, playbook, state } from '../../fixtures/engineStates'

const HOUR = 3_600_000
const DAY = 24 * HOUR
const book = playbook()
const forked = book.cadences.forked!
const names = (steps: readonly Step[]) => steps.map((step) => step.position)
const way = (id: string): Way => forked.steps[1]!.ways.find((one) => one.id === id)!

describe('the order of steps', () => {
  it('goes along the way that is taken, and on behind the branch or to the end', () => {
    const along = (id: string) => names(stepsFrom(forked, firstStep(forked)!, () => way(id)))
    expect([along('opened'), along('unanswered'), along('scored'), along('rest')]).toEqual([
      [0, 1, 2, 5],
      [0, 1, 3],
      [0, 1, 4, 5],
      [0, 1, 5],
    ])
  })
  it('leads to a step by the main way and its own; the step before a way is the one before its branch', () => {
    expect(names(stepsTo(forked, forked.steps[4]!))).toEqual([0, 1, 4])
    expect(stepBefore(forked, forked.steps[4]!)).toBe(forked.steps[0])
    expect(stepBefore(forked, forked.steps[5]!)).toBe(forked.steps[0])
    expect(stepBefore(forked, forked.steps[0]!)).toBeNull()
  })
  it('is finite on every way through any drawing without faults', () => {
    const drawn = fc.array(fc.record({ branch: fc.boolean(), inside: fc.nat(20), ends: fc.boolean() }), {
      minLength: 1,
      maxLength: 12,
    })
    fc.assert(
      fc.property(drawn, fc.infiniteStream(fc.nat(3)), (given, picks) => {
        const steps: Step[] = []
        for (const [position, { branch, inside, ends }] of given.entries()) {
          const known = steps.flatMap(({ ways }) => ways.map(({ id }) => id))
          const wayId = inside < known.length ? known[inside]! : null
          const ways = ['a', 'b'].map((end, place) => ({
            id: `${position}${end}`,
            name: end,
            when: place ? null : ({ type: 'reached' } as const),
            ends,
          }))
          steps.push({
            ...forked.steps[0]!,
            id: String(position),
            position,
            wayId,
            ...(branch && { kind: 'branch' as const, ways }),
          })
        }
        fc.pre(!routeFaults(steps).length)
        const first = firstStep({ steps })!
        const taken = stepsFrom({ steps }, first, ({ ways }) => ways[picks.next().value! % ways.length]!)
        expect(new Set(taken).size).toBe(taken.length)
        // Everything that can be reached is led to by what was passed on the way.
        for (const step of taken) expect(taken).toEqual(expect.arrayContaining(stepsTo({ steps }, step)))
      }),
    )
  })
  it('says what is wrong with a drawing, and where', () => {
    const [email, branch, call] = [forked.steps[0]!, forked.steps[1]!, forked.steps[2]!]
    const faults = (...steps: Step[]) => routeFaults(steps).map(({ index, field }) => `${index} ${field}`)
    expect(faults(...forked.steps)).toEqual([])
    expect(faults(email, call)).toEqual(['1 wayId'])
    expect(faults(call, branch)).toEqual(['0 wayId'])
    expect(faults({ ...branch, ways: [] })).toEqual(['0 ways'])
    expect(faults({ ...branch, ways: branch.ways.slice(0, 3) })).toEqual(['0 ways'])
    expect(faults({ ...branch, ways: [way('rest'), way('opened'), { ...way('rest'), id: 'x' }] })).toEqual(['0 ways.1'])
    expect(faults({ ...email, ways: branch.ways })).toEqual(['0 ways'])
    const inside = (id: string, wayId: string | null, deeper: string) => ({
      ...branch,
      id,
      wayId,
      ways: [way('opened'), way('rest')].map((one, place) => ({ ...one, id: place ? `${deeper}-` : deeper })),
    })
    const nested = [inside('1', null, 'a'), inside('2', 'a', 'b'), inside('3', 'b', 'c'), inside('4', 'c', 'd')]
    expect(faults(...nested)).toEqual(['3 ways'])
  })
  it('is said in words', () => {
    const says = (id: string) => wayInWords(way(id).when, { noAnswer: 'No answer' }, () => 'score is at least 10')
    expect(forked.steps[1]!.ways.map(({ id }) => says(id))).toEqual([
      'if the last email was opened',
      'if the last call came to “No answer”',
      'if score is at least 10',
      'otherwise',
    ])
  })
})

describe('the dates of a branched cadence', () => {
  const where = {
    teamHours: book.callHours,
    place: { timeZone: 'America/New_York', country: 'US', region: 'NY' },
    sender: { timeZone: 'America/New_York', country: 'US' },
    holidays: {},
  }
  it('are those of the way that is taken; the editor draws them all', () => {
    const plain = (planned: { stepId: string; at: number }[]) =>
      planned.map(({ stepId, at }) => [stepId, (at - NOW) / HOUR])
    expect(plain(planFrom(forked, null, NOW, where))).toEqual([
      ['forked-0', 0],
      ['forked-1', 24],
      ['forked-5', 48],
    ])
    expect(plain(planAll(forked, NOW, where, (branch) => branch.ways[0]!))).toEqual([
      ['forked-0', 0],
      ['forked-1', 24],
      ['forked-2', 25],
      ['forked-3', 24],
      ['forked-4', 26],
      ['forked-5', 49],
    ])
    expect(otherwise(forked.steps[1]!)!.id).toBe('rest')
    expect(nextStep(forked, forked.steps[1]!, way('rest'))!.id).toBe('forked-5')
  })
})

/** Ann, of whom this is known, in the forked cadence, her first email just sent. */
function started(facts: Facts = {}, playing: Playbook = book) {
  const newId = counter()
  let made = 0
  const world = {
    state: { ...state(), facts: { ann: facts, ben: {}, cy: {}, dee: {} } } as EngineState,
    happen(event: object, hours = 0) {
      const now = world.state.now + hours * HOUR
      const before = { ...world.state, now }
      const about = { id: `e${made++}`, at: now, prospectId: 'ann', actorId: 'rep', causedByEventId: null }
      const reaction = react({ ...about, ...event } as DomainEvent, before, playing, newId)
      expect(reaction.problems).toEqual([])
      world.state = { ...evolve(before, reaction.effects), now }
      return { ...reaction, before }
    },
    due: (hours: number) => world.happen({ kind: 'stepDue', enrollmentId: world.at()!.id }, hours),
    at: () => openEnrollments(world.state, 'ann')[0],
    message: () => ofProspect(world.state, 'emailMessage', 'ann')[0]!.id,
  }
  world.happen({ kind: 'enrolled', cadenceId: 'forked' })
  world.due(0)
  world.happen({ kind: 'emailSent', messageId: world.message() })
  return world
}

describe('an enrollment at a branch', () => {
  it('waits, and then goes the way of everyone else', () => {
    const one = started()
    expect(one.at()).toMatchObject({ stepId: 'forked-1', status: 'waiting', dueAt: NOW + DAY })
    const { effects } = one.due(24)
    expect(one.at()).toMatchObject({ stepId: 'forked-5', status: 'waiting', dueAt: NOW + 2 * DAY })
    expect(causeInWords(effects.find(({ kind }) => kind === 'moveEnrollment')!.cause, book)).toBe(
      '“Opened?”: Everyone else',
    )
  })
  it('goes on as soon as something happens that a way is about', () => {
    const one = started()
    one.happen({ kind: 'emailOpened', messageId: one.message() }, 2)
    expect(one.at()).toMatchObject({ stepId: 'forked-1', dueAt: NOW + 2 * HOUR })
    one.due(0)
    expect(one.at()).toMatchObject({ stepId: 'forked-2', status: 'waiting', dueAt: NOW + 3 * HOUR })
    one.due(1)
    expect(ofProspect(one.state, 'task', 'ann').filter((task) => task.status === 'open')).toMatchObject([
      { kind: 'call', stepId: 'forked-2' },
    ])
    // Opened once more, nothing changes; behind its way it goes on behind the branch.
    one.happen({ kind: 'emailOpened', messageId: one.message() }, 1)
    one.happen({ kind: 'callLogged', outcomeId: 'noAnswer', taskId: null, phoneId: null, details: {} })
    expect(one.at()).toMatchObject({ stepId: 'forked-5', status: 'waiting' })
  })
  it('tells an answer by text from one by email', () => {
    const byText = { ...forked.steps[1]!.ways[0]!, when: { type: 'answeredText' } as const }
    const steps = forked.steps.map((step) =>
      step.kind === 'branch' ? { ...step, ways: [byText, ...step.ways.slice(1)] } : step,
    )
    const exits = { ...forked.exits, replied: null }
    const asked = { ...book, cadences: { ...book.cadences, forked: { ...forked, steps, exits } } }
    const answered = (event: object) => {
      const one = started({}, asked)
      one.happen(event, 2)
      return one.at()
    }
    expect(answered({ kind: 'emailReplied', messageId: null })).toMatchObject({ dueAt: NOW + DAY })
    expect(answered({ kind: 'textReceived', messageId: 't', phoneId: 'ann#' })).toMatchObject({ dueAt: NOW + 2 * HOUR })
  })
  it('looks at what is known when the wait is over', () => {
    const scored = started({ score: 10 })
    scored.due(24)
    expect(scored.at()).toMatchObject({ stepId: 'forked-4', dueAt: NOW + 26 * HOUR })
    const other = started({ score: 9 })
    other.due(24)
    expect(other.at()).toMatchObject({ stepId: 'forked-5' })
  })
  it('ends with a way that ends', () => {
    const one = started()
    const enrollment = one.at()!
    const call = { id: 't', prospectId: 'ann', kind: 'call', at: NOW, userId: 'rep', outcomeId: 'noAnswer' } as const
    const rest = {
      countsAs: 'attempt',
      reason: null,
      quality: null,
      succeeded: null,
      phoneId: null,
      messageId: null,
    } as const
    one.state = {
      ...one.state,
      touch: { ...one.state.touch, t: { ...call, ...rest, enrollmentId: enrollment.id, stepId: null } },
    }
    one.due(24)
    expect(one.at()).toMatchObject({ stepId: 'forked-3' })
    one.due(0)
    one.happen({
      kind: 'taskDone',
      taskId: ofProspect(one.state, 'task', 'ann').find(({ status }) => status === 'open')!.id,
    })
    expect(one.at()).toBeUndefined()
    expect(one.state.enrollment[enrollment.id]).toMatchObject({ status: 'ended', exit: 'finished' })
  })
  it('where a branch is decided at once, the outcome says what comes behind it', () => {
    const steps = [forked.steps[5]!, { ...forked.steps[1]!, position: 6, wait: { amount: 0, unit: 'hours' as const } }]
    const behind = forked.steps.slice(2, 5).map((step, index) => ({ ...step, position: 7 + index }))
    const cadence = { ...forked, steps: [...steps, ...behind, { ...forked.steps[5]!, id: 'last', position: 12 }] }
    const known = { ...book, cadences: { ...book.cadences, forked: cadence } }
    const newId = counter()
    const about = { id: '1', at: NOW, prospectId: 'ann', actorId: 'rep', causedByEventId: null }
    const enrolled = react({ ...about, kind: 'enrolled', cadenceId: 'forked' } as DomainEvent, state(), known, newId)
    const [enrollment] = openEnrollments(evolve(state(), enrolled.effects), 'ann')
    const now = { ...evolve(state(), enrolled.effects), now: enrollment!.dueAt!, facts: { ann: {} } }
    const due = { ...about, id: '2', at: now.now, kind: 'stepDue', enrollmentId: enrollment!.id } as DomainEvent
    const before = evolve(now, react(due, now, known, newId).effects)
    const call = {
      ...about,
      id: '3',
      at: now.now,
      kind: 'callLogged',
      outcomeId: 'noAnswer',
      taskId: null,
      phoneId: null,
    }
    const { effects } = react({ ...call, details: {} } as DomainEvent, before, known, newId)
    const says = explain(effects, 'ann', before, evolve(before, effects), known, {
      timeZone: 'America/New_York',
      dateStyle: 'us',
      now: now.now,
    })
    expect(says).toContain('Next: task, today')
  })
})

describe('changing a cadence that runs', () => {
  const at = (id: string, rest: Partial<Step> = {}): Step => ({
    ...forked.steps[0]!,
    id,
    name: id,
    position: 'abcd'.indexOf(id),
    ...rest,
  })
  const before = [at('a'), at('b'), at('c'), at('d')]
  it('says whom steps that were deleted or changed concern, and where they go on', () => {
    const after = [at('a', { name: 'Other words' }), at('c'), at('d', { position: 1 })]
    expect(whatChanges(before, after, { a: 3, b: 2, d: 5 })).toEqual([
      { id: 'a', name: 'a', people: 3, what: 'changed', next: null },
      { id: 'b', name: 'b', people: 2, what: 'deleted', next: 'c' },
    ])
    expect(whatChanges(before, [at('a')], { b: 1, d: 1 }).map(({ next }) => next)).toEqual([null, null])
  })
  it('is silent where nobody is at such a step, or steps were only moved', () => {
    expect(whatChanges(before, [at('a')], { a: 4 })).toEqual([])
    expect(whatChanges(before, [...before].reverse(), { a: 1, b: 1, c: 1, d: 1 })).toEqual([])
  })
})

describe('an earlier version of a cadence', () => {
  const fork = (id: string): Step => ({ ...book.cadences.mixed!.steps[0]!, id, position: 0, wayId: null, ways: [] })
  const cadence: Cadence = {
    ...book.cadences.mixed!,
    steps: [fork('now-1'), { ...fork('now-2'), position: 1 }],
    earlier: [[fork('was-1'), { ...fork('was-2'), position: 1 }], [fork('older')]],
  }
  it('is gone through by who is at one of its steps; who is at none goes on as it is now', () => {
    expect(versionAt(cadence, 'was-1').steps.map(({ id }) => id)).toEqual(['was-1', 'was-2'])
    expect(versionAt(cadence, 'older').steps).toHaveLength(1)
    expect(versionAt(cadence, 'now-2')).toBe(cadence)
    expect(versionAt(cadence, 'nowhere')).toBe(cadence)
    expect(everyStep([cadence])).toHaveLength(5)
  })
  it('has the step that another took the place of, over several versions, also where the one before was deleted', () => {
    const deleted = { older: 'was-2', 'was-1': 'now-2', 'was-2': 'now-2', 'now-1': null }
    const at = (stepId: string, named: string) => stepHere({ ...versionAt(cadence, stepId), deleted }, named)?.id
    expect(at('was-1', 'now-2')).toBe('was-2')
    expect(at('older', 'now-2')).toBe('older')
    expect(at('now-2', 'now-2')).toBe('now-2')
    expect(at('was-1', 'was-1')).toBe('was-1')
    expect(at('was-1', 'now-1')).toBeUndefined()
    expect(stepHere({ steps: cadence.steps, deleted: { 'now-1': 'now-2', 'now-2': 'now-1' } }, 'was-1')).toBeNull()
  })
})
