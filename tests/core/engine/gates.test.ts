import { describe, expect, it } from 'vitest'
import { evolve } from '../../../core/engine/state/effects'
import type { DomainEvent, OutcomeDetails } from '../../../core/engine/state/events'
import { react } from '../../../core/engine/react'
import type { EngineState } from '../../../core/engine/state/engineState'
import type { Playbook } from '../../../core/engine/state/playbook'
import type { Gate } from '../../../core/stage/gate'
import { counter, NOW, playbook, state } from '../../fixtures/engineStates'

const about = { id: 'e', at: NOW, prospectId: 'ann', actorId: 'rep', causedByEventId: null }
const withGate = (id: string, gate: Gate): Playbook => {
  const book = playbook()
  return { ...book, stages: { ...book.stages, [id]: { ...book.stages[id]!, gate } } }
}
function happen(event: object, book: Playbook, before: EngineState = state()) {
  const reaction = react({ ...about, ...event } as DomainEvent, before, book, counter())
  return { ...reaction, stage: evolve(before, reaction.effects).prospect.ann!.stageId }
}
const logged = (book: Playbook, details: OutcomeDetails = {}, before = state(), outcomeId = 'noAnswer') =>
  happen({ kind: 'callLogged', outcomeId, taskId: null, phoneId: null, details }, book, before)
const known = (rest: object): EngineState => {
  const usual = state()
  return { ...usual, prospect: { ...usual.prospect, ann: { ...usual.prospect.ann!, ...rest } } }
}

describe('the gate of the stage that a first touch leads to', () => {
  const book = withGate('attempting', { fields: ['title'] })
  it('asks the call that is logged for what is missing, and lets it through once it is there', () => {
    expect(logged(book).problems.map(({ field }) => field)).toEqual(['fields.title'])
    expect(logged(book, {}, known({ title: 'Cellar master' }))).toMatchObject({ problems: [], stage: 'attempting' })
  })
  it('leaves the prospect where they are after any other touch', () => {
    const task = { id: 't', prospectId: 'ann', ownerId: 'rep', kind: 'task', status: 'open', dueAt: NOW } as const
    const more = { priority: 2, title: '', doneAt: null, enrollmentId: null, stepId: null, messageId: null }
    const before = { ...state(), task: { t: { ...task, ...more, timeZone: 'UTC' } } }
    const done = (book: Playbook) => happen({ kind: 'taskDone', taskId: 't' }, book, before)
    expect(done(book)).toMatchObject({ problems: [], stage: 'new' })
    expect(done(playbook())).toMatchObject({ problems: [], stage: 'attempting' })
  })
  it('that only time can open holds nothing up', () => {
    expect(logged(withGate('attempting', { attempts: 5 }))).toMatchObject({ problems: [], stage: 'new' })
  })
})

describe('a stage that can be reached from some alone', () => {
  it('refuses the others, by hand and by an outcome, but not an override', () => {
    const book = withGate('lost', { from: ['talking'] })
    const move = (override: string | null, from = 'attempting') =>
      happen({ kind: 'stageMoved', to: 'lost', reason: null, note: null, override }, book, known({ stageId: from }))
    expect(move(null).problems.map(({ message }) => message)).toEqual([
      'Lost can be reached only from “Talking”, not from “Attempting”',
    ])
    expect(move(null, 'talking').stage).toBe('lost')
    expect(move('They asked for it').stage).toBe('lost')
    const outcome = logged(book, { reason: 'Too dear' }, known({ stageId: 'attempting' }), 'lost')
    expect(outcome.problems).toHaveLength(1)
  })
})

describe('a team that wants a note with every attempt', () => {
  const book = { ...playbook(), attemptNotes: true }
  it('gets one: an attempt without is refused at the note, a conversation is not', () => {
    expect(logged(book).problems).toMatchObject([{ field: 'note' }])
    expect(logged(book, { note: 'Rang through' }).problems).toEqual([])
    expect(logged(book, { callBackAt: NOW + 86_400_000 }, state(), 'callBack').problems).toEqual([])
  })
})

describe('the number that was called', () => {
  it('is one of the prospect’s: another is refused, even a colleague’s', () => {
    const log = (phoneId: string) =>
      happen({ kind: 'callLogged', outcomeId: 'wrongNumber', taskId: null, phoneId, details: {} }, playbook())
    expect(log('ann#').problems).toEqual([])
    for (const phoneId of ['ben#', 'deleted']) {
      expect(log(phoneId)).toMatchObject({ effects: [], problems: [{ field: 'phone' }] })
    }
  })
})

describe('how a call went', () => {
  it('is kept with the touch, in the team’s words alone', () => {
    const { effects } = logged(playbook(), { quality: 'Poor', succeeded: true })
    expect(effects.find(({ entity }) => entity === 'touch')!.after).toMatchObject({ quality: 'Poor', succeeded: true })
    expect(logged(playbook(), { quality: 'Dreadful' }).problems.map(({ field }) => field)).toEqual(['quality'])
  })
})
