import { describe, expect, it } from 'vitest'
import { evolve, signature } from '../../../core/engine/state/effects'
import type { DomainEvent } from '../../../core/engine/state/events'
import { describeEffect } from '../../../core/engine/describeEffect'
import { explain } from '../../../core/engine/explain'
import { react } from '../../../core/engine/react'
import { undoEffects } from '../../../core/engine/undo'
import { linkId, openEnrollments, waitingActions, type EngineState } from '../../../core/engine/state/engineState'
import type { ConfiguredAction, Playbook } from '../../../core/engine/state/playbook'
import { counter, NOW, playbook, state } from '../../fixtures/engineStates'

const HOUR = 3_600_000
const reader = { timeZone: 'America/New_York', dateStyle: 'us' as const, now: NOW }
const inTwoHours: ConfiguredAction = {
  type: 'startCadence',
  after: { amount: 2, unit: 'hours' },
  ...{ cadenceId: 'mixed' },
}

/** A small world in which "voicemail" has the actions given, and things happen to Ann one after the other. */
function world(actions: ConfiguredAction[], given: Partial<Playbook> = {}) {
  const usual = playbook()
  const outcome = { ...usual.outcomes.noAnswer!, id: 'voicemail', name: 'Left voicemail', actions }
  const book = { ...usual, ...given, outcomes: { ...usual.outcomes, voicemail: outcome } }
  const newId = counter()
  let made = 0
  return {
    book,
    state: state(),
    at: NOW,
    happen(event: object) {
      const about = { id: `e${made++}`, at: this.at, prospectId: 'ann', actorId: 'rep', causedByEventId: null }
      const before = { ...this.state, now: this.at }
      const reaction = react({ ...about, ...event } as DomainEvent, before, book, newId)
      this.state = evolve(before, reaction.effects)
      const { skipped = [] } = reaction
      return {
        ...reaction,
        before,
        says: explain(reaction.effects, 'ann', before, this.state, book, { ...reader, skipped }),
      }
    },
    log(outcomeId: string, details = {}) {
      return this.happen({ kind: 'callLogged', outcomeId, taskId: null, phoneId: null, details })
    },
    due() {
      return this.happen({ kind: 'actionDue', delayedActionId: waitingActions(this.state, 'ann')[0]!.id })
    },
    waiting: (now: EngineState) => waitingActions(now, 'ann'),
  }
}

describe('an action with a delay', () => {
  it('is said beforehand, waits, and is done when its time has come', () => {
    const one = world([inTwoHours])
    expect(one.log('voicemail').says).toBe('Attempt 1 of 3. Stage: Attempting. Starts “Mixed” today, 12:42 PM.')
    expect(openEnrollments(one.state, 'ann')).toEqual([])
    // Too early, nothing happens.
    one.at += HOUR
    expect(one.due().effects).toEqual([])
    one.at += HOUR
    one.due()
    expect(openEnrollments(one.state, 'ann')).toMatchObject([{ cadenceId: 'mixed', status: 'waiting', byId: 'rep' }])
    expect(one.waiting(one.state)).toEqual([])
  })
  it('is the next step of a prospect, so that no follow-up is planned beside it', () => {
    const one = world([inTwoHours])
    one.log('voicemail')
    expect(Object.values(one.state.task).filter((task) => task.status === 'open')).toEqual([])
  })
  it('is done once, however often the call is logged in the meantime', () => {
    const one = world([inTwoHours])
    one.log('voicemail')
    one.at += HOUR
    expect(one.log('voicemail').says).toMatch(/No longer scheduled: starts “Mixed”. Starts “Mixed” today, 1:42 PM.$/)
    expect(one.waiting(one.state)).toMatchObject([{ runAt: NOW + 3 * HOUR }])
  })
  it.each([
    ['they are spoken to', (one: ReturnType<typeof world>) => one.log('callBack', { callBackAt: NOW + 5 * HOUR })],
    ['they reply', (one: ReturnType<typeof world>) => one.happen({ kind: 'emailReplied', messageId: null })],
    ['they are stopped', (one: ReturnType<typeof world>) => one.happen({ kind: 'stopSet', channel: 'all', on: true })],
    [
      'their company is stopped',
      (one: ReturnType<typeof world>) => one.happen({ kind: 'companyStatusSet', to: 'do_not_contact' }),
    ],
    ['their stage closes', (one: ReturnType<typeof world>) => one.happen({ kind: 'stageMoved', to: 'closed' })],
  ])('is off when %s', (_, happen) => {
    const one = world([inTwoHours])
    one.log('voicemail')
    happen(one)
    expect(Object.values(one.state.delayedAction)).toMatchObject([{ status: 'cancelled' }])
  })
  it.each<[string, ConfiguredAction, Partial<Playbook>, string]>([
    ['a company in a deal', { type: 'startCadence', ...{ cadenceId: 'mixed' } }, {}, 'Acme Dairy is in a deal'],
    ['a gate that holds', { type: 'moveStage', ...{ to: 'unreached' } }, {}, 'Unreached requires 3 attempts'],
    ['a deleted tag', { type: 'changeTag', ...{ tagId: 'gone', on: true } }, {}, 'has been deleted'],
    ['a user who is not active', { type: 'assign', ...{ to: 'left' } }, {}, 'no longer active'],
  ])('is skipped by %s, which is said, and a next step is planned', (_, action, given, why) => {
    const one = world([{ ...action, after: { amount: 1, unit: 'days' } }], given)
    one.log('voicemail')
    one.at += 24 * HOUR
    const { company } = one.state
    one.state = { ...one.state, company: { acme: { ...company.acme!, status: 'in_deal' } } }
    const { effects } = one.due()
    expect(effects.find((effect) => effect.kind === 'skipAction')?.cause.said).toContain(why)
    expect(Object.values(one.state.delayedAction)).toMatchObject([{ status: 'skipped' }])
    expect(Object.values(one.state.task).some((task) => task.status === 'open')).toBe(true)
  })
  it('can be canceled by hand, once', () => {
    const one = world([inTwoHours])
    one.log('voicemail')
    const [row] = one.waiting(one.state)
    one.happen({ kind: 'actionCancelled', delayedActionId: row!.id })
    expect(Object.values(one.state.delayedAction)).toMatchObject([{ status: 'cancelled' }])
    const { problems } = one.happen({ kind: 'actionCancelled', delayedActionId: row!.id })
    expect(problems).toMatchObject([{ field: 'action' }])
    // Nobody is left without a next step.
    expect(Object.values(one.state.task).some((task) => task.status === 'open')).toBe(true)
  })
  it('is undone with the call, before and after it was done', () => {
    const early = world([inTwoHours])
    const logged = early.log('voicemail')
    const undone = undoEffects([...logged.effects].reverse(), early.state, early.book.names)
    expect(undone.skipped).toEqual([])
    expect(evolve(early.state, undone.effects).delayedAction).toEqual({})

    const late = world([inTwoHours])
    const first = late.log('voicemail')
    late.at += 2 * HOUR
    const second = late.due()
    const both = undoEffects(
      [...second.effects.toReversed(), ...first.effects.toReversed()],
      late.state,
      late.book.names,
    )
    const after = evolve(late.state, both.effects)
    expect([after.delayedAction, after.enrollment]).toEqual([{}, {}])
  })
})

describe('what an action does at once', () => {
  const act = (...actions: object[]) => {
    const one = world(actions as ConfiguredAction[])
    return { one, ...one.log('voicemail') }
  }
  it('tags, lists, fields and the owner change, are said, and are left alone where they are so already', () => {
    const actions = [
      { type: 'changeTag', tagId: 'tagged', on: true },
      { type: 'changeList', listId: 'listed', on: true },
      { type: 'setField', fieldId: 'f1', mode: 'set', value: 3 },
      { type: 'assign', to: 'rep' },
    ]
    const { one, says } = act(...actions)
    expect(says).toContain('Adds the tag “Hot lead”. Adds to the list “Spring list”. Sets “Cellar size”.')
    expect(Object.values(one.state.customValue)).toMatchObject([{ prospectId: 'ann', field: 'custom:f1', value: 3 }])
    expect(one.log('voicemail').effects.map((effect) => effect.kind)).not.toContain('addTag')
  })
  it('does not give a tag back that has been deleted since, and says so', () => {
    const one = world([{ type: 'changeTag', ...{ tagId: 'tagged', on: false } }])
    const row = { id: linkId('ann', 'tagged'), prospectId: 'ann', tagId: 'tagged' }
    one.state = { ...one.state, prospectTag: { [row.id]: row } }
    const { effects } = one.log('voicemail')
    const back = undoEffects([...effects].reverse(), one.state, one.book.names)
    expect(Object.values(evolve(one.state, back.effects).prospectTag)).toEqual([row])
    const undone = undoEffects([...effects].reverse(), one.state, {})
    expect(undone.skipped).toEqual(['The tag has been deleted since'])
    expect(evolve(one.state, undone.effects).prospectTag).toEqual({})
  })
  it('adds to a field of several choices, each once, and clears it', () => {
    const add = (value: string) => ({ type: 'setField', fieldId: 'f1', mode: 'add', value })
    const { one } = act(add('cold'), add('damp'), add('cold'))
    expect(Object.values(one.state.customValue)).toMatchObject([{ value: ['cold', 'damp'] }])
    expect(act(add('cold'), { type: 'setField', fieldId: 'f1', mode: 'clear' }).one.state.customValue).toEqual({})
    const { effects } = act(add('cold'), add('damp'), { type: 'setField', fieldId: 'f1', mode: 'clear' })
    const said = effects
      .filter(({ kind }) => kind === 'setField')
      .map((effect) => describeEffect({ ...effect, prospectId: 'ann' }, one.book, reader))
    expect(said).toEqual(['Cellar size: cold', 'Cellar size: cold, damp', 'Cellar size: cleared'])
  })
  it('holds only where its terms do: the attempt, the stage before the call, the cadence', () => {
    const tag = (terms: object) => ({ type: 'changeTag', tagId: 'tagged', on: true, ...terms })
    const tagged = (terms: object) => Object.keys(act(tag(terms)).one.state.prospectTag).length
    expect([{ fromAttempt: 2 }, { inStages: ['talking'] }, { inCadences: ['mixed'] }].map(tagged)).toEqual([0, 0, 0])
    expect([{ beforeAttempt: 2 }, { inStages: ['new'] }, { noCadence: true }].map(tagged)).toEqual([1, 1, 1])
  })
  it('says what it does not do, and does the rest', () => {
    const { says, effects } = act({ type: 'startCadence', cadenceId: 'gone' }, { type: 'openDeal', likelihood: 20 })
    expect(says).toContain('The cadence is not started: it is archived.')
    expect(effects.map((effect) => effect.kind)).toContain('openDeal')
  })
  it('makes a to-do once while it is open, says so, and again once it is done', () => {
    const toDo = { type: 'makeTask', task: 'task', title: 'Send the guide', whose: 'owner' }
    const { one } = act({ ...toDo, wait: { amount: 2, unit: 'days' } })
    const toDos = () => Object.values(one.state.task).filter(({ title }) => title === 'Send the guide')
    expect(toDos()).toHaveLength(1)
    const second = one.log('voicemail')
    expect(second.says).toContain('The to-do “Send the guide” is open already.')
    expect(toDos()).toHaveLength(1)
    one.happen({ kind: 'taskDone', taskId: toDos()[0]!.id })
    one.log('voicemail')
    expect(toDos().map(({ status }) => status)).toEqual(['done', 'open'])
  })
  it('assigns in turn; people of one company go to the same user, and undo gives the turn back', () => {
    const one = world([{ type: 'assign', ...{ to: ['other', 'third', 'left'] } }], {
      names: { ...playbook().names, other: 'Otto', third: 'Thea' },
    })
    const logFor = (companyId: string) => {
      const { prospect, company } = one.state
      one.state = {
        ...one.state,
        company: { ...company, [companyId]: { ...company.acme!, id: companyId } },
        prospect: { ...prospect, ann: { ...prospect.ann!, companyId, ownerId: null } },
      }
      return one.log('voicemail')
    }
    const ownerAt = (companyId: string) => {
      logFor(companyId)
      return one.state.prospect.ann!.ownerId
    }
    expect(['one', 'two', 'three', 'four'].map(ownerAt)).toEqual(['other', 'third', 'other', 'third'])
    // Otto would be next, but Thea has Ben there; that is no turn of hers.
    one.state = {
      ...one.state,
      prospect: { ...one.state.prospect, ben: { ...one.state.prospect.ben!, companyId: 'five', ownerId: 'third' } },
    }
    expect(logFor('five').says).toContain('Owner: Thea.')
    const { says, effects } = logFor('six')
    expect(says).toContain('Owner: Otto, next in turn.')
    const undone = undoEffects([...effects].reverse(), one.state, one.book.names)
    expect(undone.skipped).toEqual([])
    one.state = evolve(one.state, undone.effects)
    expect(ownerAt('seven')).toBe('other')
    // Had someone else had a turn since, it would be kept without a word.
    const late = logFor('eight')
    logFor('nine')
    logFor('ten')
    expect(undoEffects([...late.effects].reverse(), one.state, one.book.names).skipped.join()).not.toContain('turn')
  })
  it('promises the same for each who is next in turn', () => {
    const preview = (turn: Record<string, number>) => {
      const one = world([{ type: 'assign', ...{ to: ['other', 'third'] } }], {
        names: { ...playbook().names, other: 'Otto', third: 'Thea' },
      })
      const rows = Object.entries(turn).map(([id, number]) => [id, { id, number }] as const)
      const { prospect } = one.state
      const ann = { ...prospect.ann!, ownerId: null, companyId: null }
      one.state = { ...one.state, turn: Object.fromEntries(rows), prospect: { ...prospect, ann } }
      const { effects } = one.log('voicemail')
      return { owner: one.state.prospect.ann!.ownerId, promise: signature(effects) }
    }
    const [first, second] = [preview({ other: 1, third: 2 }), preview({ other: 3, third: 2 })]
    expect([first.owner, second.owner]).toEqual(['other', 'third'])
    expect(first.promise).toBe(second.promise)
  })
  it('leaves people with one of several users who has them already, and says where none is active', () => {
    const one = world([{ type: 'assign', ...{ to: ['rep', 'other'] } }])
    one.log('voicemail')
    expect(one.state.prospect.ann!.ownerId).toBe('rep')
    const none = world([{ type: 'assign', ...{ to: ['left', 'away'] } }])
    expect(none.log('voicemail').says).toContain('Not assigned: none of the users is active.')
  })
  it('rates, and undoes the rating', () => {
    const one = world([{ type: 'rate', ...{ rating: 'hot' } }])
    const { says, effects } = one.log('voicemail')
    expect(says).toContain('Rates hot.')
    expect(one.state.prospect.ann).toMatchObject({ rating: 'hot', ratedByScore: false })
    const undone = undoEffects([...effects].reverse(), one.state, one.book.names)
    expect(evolve(one.state, undone.effects).prospect.ann).toMatchObject({ rating: null, ratedByScore: true })
    // Nothing changes where it is so already.
    const again = world([{ type: 'rate', ...{ rating: 'score' } }])
    expect(again.log('voicemail').effects.some(({ kind }) => kind === 'rate')).toBe(false)
  })
  it('gives them to who has most people at their company', () => {
    const one = world([{ type: 'assign', ...{ to: 'companyOwner' } }])
    const { prospect } = one.state
    one.state = { ...one.state, prospect: { ...prospect, ben: { ...prospect.ben!, ownerId: 'left' } } }
    one.state = { ...one.state, prospect: { ...one.state.prospect, cy: { ...prospect.cy!, ownerId: 'left' } } }
    // Not an active user: nothing is done, and it is said.
    expect(one.log('voicemail').says).toContain('Not assigned: the user is no longer active.')
    const { prospect: now } = one.state
    one.state = {
      ...one.state,
      prospect: { ...now, ben: { ...now.ben!, ownerId: 'other' }, cy: { ...now.cy!, ownerId: 'other' } },
    }
    expect(one.log('voicemail').says).toContain('Owner: Otto.')
    // Who is assigned a prospect by someone else is notified.
    expect(Object.values(one.state.notification)).toMatchObject([{ userId: 'other', kind: 'handed_over', byId: 'rep' }])
  })
})
