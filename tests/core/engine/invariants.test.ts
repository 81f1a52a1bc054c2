import fc from 'fast-check'
import { DEFAULT_EXITS } from '../../../core/cadence/exits'
import { describe, expect, it } from 'vitest'
import { evolve, inverse, signature } from '../../../core/engine/state/effects'
import type { DomainEvent } from '../../../core/engine/state/events'
import { react } from '../../../core/engine/react'
import {
  companyOf,
  ofProspect,
  openEnrollments,
  waitingActions,
  type EngineState,
} from '../../../core/engine/state/engineState'
import { ACTIONS, FORM_ACTIONS } from '../../../core/actions/registry'
import type { ConfiguredAction, Playbook } from '../../../core/engine/state/playbook'
import { useOf } from '../../../core/engine/taskOutcome'
import { whyStopped } from '../../../core/engine/moves/stops'
import { undoEffects } from '../../../core/engine/undo'
import { counter, customValues, NOW, playbook, state } from '../../fixtures/engineStates'

const book = playbook()
const HOUR = 3_600_000

/** Every kind of action, some of them twice; those that may wait do so, too. */
const ONE_OF_EACH: ConfiguredAction[] = [
  { type: 'advance' },
  { type: 'goToStep', stepId: 'mixed-2' },
  { type: 'pauseCadence', wait: { amount: 1, unit: 'weeks' } },
  { type: 'exit', scope: 'all', as: 'removed' },
  { type: 'exit', scope: 'company', as: 'stopped' },
  { type: 'startCadence', cadenceId: 'calls' },
  { type: 'startCadence', cadenceId: 'mixed' },
  { type: 'moveStage', to: 'unreached' },
  { type: 'moveStage', to: 'talking', scope: 'company' },
  { type: 'callBack' },
  { type: 'makeTask', title: 'Ring', task: 'call', wait: { amount: 2, unit: 'business_days' }, whose: 'owner' },
  { type: 'makeTask', title: 'Look', task: 'task', wait: { amount: 30, unit: 'minutes' }, whose: 'caller' },
  { type: 'bookMeeting' },
  { type: 'openDeal', likelihood: 20 },
  { type: 'closeDeal', as: 'won' },
  { type: 'closeDeal', as: 'lost' },
  { type: 'cancelEmail' },
  { type: 'markNumber', as: 'wrong' },
  { type: 'stop', channel: 'email' },
  { type: 'setCompanyStatus', to: 'not_a_fit' },
  { type: 'addReferral' },
  { type: 'assign', to: 'rep' },
  { type: 'assign', to: 'companyOwner' },
  { type: 'assign', to: ['rep', 'other'] },
  { type: 'rate', rating: 'hot' },
  { type: 'rate', rating: 'score' },
  { type: 'changeTag', tagId: 'tagged', on: true },
  { type: 'changeTag', tagId: 'tagged', on: false },
  { type: 'changeList', listId: 'listed', on: true },
  { type: 'setField', fieldId: 'f1', mode: 'set', value: 12 },
  { type: 'setField', fieldId: 'f1', mode: 'add', value: 'cold' },
  { type: 'setField', fieldId: 'f1', mode: 'clear' },
  { type: 'setField', fieldId: 'source', mode: 'set', value: 'Referral' },
  { type: 'archive' },
  { type: 'notifyUsers', users: ['owner', 'other'] },
].flatMap((action: ConfiguredAction) => [
  action,
  ...(ACTIONS[action.type]!.mayWait ? [{ ...action, after: { amount: 2, unit: 'hours' as const } }] : []),
])
/** All that an outcome can ask for. */
const detailsAt = (now: number) => ({
  callBackAt: now + 5 * HOUR,
  reason: 'no need',
  meeting: { title: 'Look', startAt: now + 48 * HOUR, minutes: 30, timeZone: 'UTC' },
  referral: { firstName: 'Eve', lastName: 'Y' },
})
const action = (type: string, rest: object): ConfiguredAction => ({ type, ...rest })
const terms = fc.constantFrom<Partial<ConfiguredAction>>(
  {},
  {},
  { fromAttempt: 2 },
  { beforeAttempt: 2 },
  { inStages: ['new', 'attempting'] },
  { inCadences: ['mixed'] },
  { noCadence: true },
  { where: { field: 'stage', test: { op: 'anyOf', values: ['new', 'attempting'] } } },
  { where: { none: [{ field: 'attempts', test: { op: 'moreThan', number: 1 } }] } },
  { where: { field: 'score', test: { op: 'atLeast', number: 10 } } },
)
/** An outcome that a team has made. */
const madeOutcome = fc.record({
  countsAs: fc.constantFrom('attempt' as const, 'conversation' as const, 'none' as const),
  actions: fc.array(
    fc.tuple(fc.constantFrom(...ONE_OF_EACH), terms).map(([action, when]) => ({ ...action, ...when })),
    { maxLength: 6 },
  ),
})

/** One thing someone or the world may do, as a plain choice; `doIt` makes it an event on what is there then. */
const act = fc.record({
  who: fc.constantFrom('ann', 'ben', 'cy', 'dee'),
  what: fc.constantFrom(
    'enroll',
    'due',
    'mail',
    'log',
    'task',
    'hand',
    'reply',
    'bounce',
    'unsubscribe',
    'stop',
    'lift',
    'held',
    'unconfirmed',
    'remove',
    'skip',
    'shift',
    'status',
    'plan',
    'many',
    'send',
    'action',
    'action',
    'cancel',
    'open',
    'click',
    'text',
    'textIn',
    'missed',
    'abandoned',
    'consent',
    'form',
    'several',
  ),
  cadence: fc.constantFrom('mixed', 'calls', 'varied', 'varied', 'forked', 'forked'),
  outcome: fc.constantFrom(...Object.keys(book.outcomes), 'made', 'made', 'made'),
  hours: fc.integer({ min: 0, max: 60 }),
  pick: fc.nat(5),
})
/** Actions that are done with many at once: three of all, one after the other. */
const severalOf = ({ pick, hours }: { pick: number; hours: number }) => {
  const possible = ONE_OF_EACH.filter(({ type }) => (FORM_ACTIONS as readonly string[]).includes(type))
  return [0, 1, 2].map((place) => possible[(pick * 7 + hours + place * 11) % possible.length]!)
}
type Act = typeof act extends fc.Arbitrary<infer T> ? T : never
interface Life {
  acts: readonly Act[]
  made: typeof madeOutcome extends fc.Arbitrary<infer T> ? T : never
}

function doIt(given: Act, world: EngineState, now: number, id: string): DomainEvent | null {
  const about = { id, at: now, prospectId: given.who, actorId: 'rep', causedByEventId: null }
  const pick = <T>(rows: readonly T[]): T | null => rows[given.pick % Math.max(1, rows.length)] ?? null
  const mine = <E extends 'enrollment' | 'emailMessage' | 'task' | 'phone'>(entity: E) =>
    ofProspect(world, entity, given.who)
  switch (given.what) {
    case 'enroll':
      return { ...about, kind: 'enrolled', cadenceId: given.cadence }
    case 'due': {
      const row = pick(openEnrollments(world, given.who))
      return row && { ...about, kind: 'stepDue', enrollmentId: row.id }
    }
    case 'mail': {
      const row = pick(mine('emailMessage').filter((one) => one.status === 'queued'))
      return row && { ...about, kind: 'emailSent', messageId: row.id }
    }
    case 'held': {
      const row = pick(mine('emailMessage'))
      return row && { ...about, kind: 'emailHeld', messageId: row.id }
    }
    case 'unconfirmed': {
      const row = pick(mine('emailMessage'))
      return row && { ...about, kind: 'emailUnconfirmed', messageId: row.id }
    }
    case 'open': {
      const row = pick(mine('emailMessage').filter((one) => one.status === 'sent'))
      return row && { ...about, kind: 'emailOpened', messageId: row.id }
    }
    case 'shift': {
      const row = pick(mine('enrollment').filter((one) => one.status !== 'ended'))
      const { steps } = book.cadences[row?.cadenceId ?? ''] ?? { steps: [] }
      const stepId = given.pick % 2 ? (steps[given.pick % Math.max(1, steps.length)]?.id ?? null) : null
      const dueAt = now + given.hours * 3_600_000
      return row && { ...about, kind: 'enrollmentMoved', enrollmentId: row.id, stepId, dueAt }
    }
    case 'click': {
      const row = pick(mine('emailMessage').filter((one) => one.status === 'sent'))
      return row && { ...about, kind: 'emailClicked', messageId: row.id }
    }
    case 'text': {
      const row = pick(mine('phone'))
      const taskId = pick(mine('task').filter((one) => one.status === 'open'))?.id ?? null
      return (
        row && {
          ...about,
          kind: 'textWritten',
          messageId: about.id,
          phoneId: row.id,
          taskId,
          agreed: given.pick % 2 === 0,
        }
      )
    }
    case 'textIn':
      return { ...about, kind: 'textReceived', messageId: about.id, phoneId: `${about.prospectId}#` }
    case 'missed': {
      const row = pick(mine('phone'))
      const rangFor = given.pick % 2 ? 'rep' : null
      return row && { ...about, kind: 'callMissed', phoneId: row.id, rangFor, actorId: null }
    }
    case 'abandoned': {
      const row = pick(mine('phone'))
      return (
        row && { ...about, kind: 'callAbandoned', phoneId: row.id, blockId: 'block', dialedFor: 'rep', actorId: null }
      )
    }
    case 'consent': {
      const row = pick(mine('phone'))
      const to = (['stopped', 'given', 'declined'] as const)[given.pick % 3]!
      return (
        row && { ...about, kind: 'textConsentSet', phoneId: row.id, to, actorId: given.pick % 2 ? about.actorId : null }
      )
    }
    case 'several':
      return { ...about, kind: 'actionsRun', actionId: 'bulk', actions: severalOf(given) }
    case 'form':
      return { ...about, kind: 'formSent', formId: 'made', isNew: given.pick % 2 === 0, actorId: null }
    case 'bounce': {
      const row = pick(mine('emailMessage').filter((one) => one.status === 'sent'))
      return row && { ...about, kind: 'emailBounced', messageId: row.id }
    }
    case 'log':
      return {
        ...about,
        kind: 'callLogged',
        outcomeId: given.outcome,
        taskId: pick(mine('task').filter((one) => one.status === 'open'))?.id ?? null,
        phoneId: null,
        details: detailsAt(now),
      }
    case 'task': {
      const row = pick(mine('task').filter((one) => one.status === 'open'))
      const hasOutcome = row && useOf(row.kind) !== 'call' && given.hours % 2
      return (
        row && {
          ...about,
          kind: 'taskDone',
          taskId: row.id,
          ...(hasOutcome && { outcomeId: given.outcome, details: detailsAt(now) }),
        }
      )
    }
    case 'hand': {
      const row = pick(mine('task').filter((one) => one.status === 'open'))
      return row && { ...about, kind: 'taskAssigned', taskId: row.id, ownerId: given.pick % 2 ? 'rep' : 'other' }
    }
    case 'reply':
      return { ...about, kind: 'emailReplied', messageId: null }
    case 'unsubscribe':
      return { ...about, kind: 'unsubscribed' }
    case 'stop':
      return { ...about, kind: 'stopSet', channel: 'call', on: true }
    case 'lift':
      return { ...about, kind: 'stopSet', channel: 'all', on: false }
    case 'remove': {
      const row = pick(openEnrollments(world, given.who))
      return row && { ...about, kind: 'unenrolled', enrollmentId: row.id }
    }
    case 'skip': {
      const row = pick(openEnrollments(world, given.who))
      return row && { ...about, kind: 'stepSkipped', enrollmentId: row.id }
    }
    case 'plan':
      return {
        ...about,
        kind: 'taskPlanned',
        task: given.pick % 2 ? 'call' : 'task',
        title: 'Ring',
        dueAt: now + given.hours * HOUR,
        ownerId: null,
      }
    case 'many':
      return {
        ...about,
        kind: 'emailWritten',
        messageId: `m${id}`,
        taskId: null,
        many: { sendAt: now + given.hours * HOUR },
      }
    case 'send': {
      const row = pick(mine('task').filter((one) => one.status === 'open' && one.kind === 'email'))
      return row && { ...about, kind: 'emailWritten', messageId: `m${id}`, taskId: row.id }
    }
    case 'action':
    case 'cancel': {
      const row = pick(waitingActions(world, given.who))
      const kind = given.what === 'action' ? 'actionDue' : 'actionCancelled'
      return row && { ...about, kind, delayedActionId: row.id }
    }
    case 'status':
      return { ...about, kind: 'companyStatusSet', to: given.pick % 2 ? 'do_not_contact' : 'open' }
  }
}

/** What follows last steps: a tag, a stage whose gate refuses; another cadence for some; a status for their company. */
const AFTER_LAST: Playbook['afterLast'] = {
  mixed: [action('changeTag', { tagId: 'tagged', on: true }), action('moveStage', { to: 'lost' })],
  forked: [
    action('startCadence', { cadenceId: 'calls', where: { field: 'score', test: { op: 'atLeast', number: 10 } } }),
  ],
  calls: [action('setCompanyStatus', { to: 'not_a_fit', after: { amount: 1, unit: 'days' } })],
}

/** Lives through the acts, looking at every step. */
function live(
  { acts, made }: Life,
  look: (seen: {
    book: Playbook
    before: EngineState
    event: DomainEvent
    effects: ReturnType<typeof react>['effects']
    after: EngineState
  }) => void,
): EngineState {
  let world: EngineState = { ...state(), facts: { ann: { score: 12 }, ben: { score: 3 }, cy: {}, dee: { score: 10 } } }
  let now = NOW
  const newId = counter()
  const outcome = { ...playbook().outcomes.noAnswer!, ...made, id: 'made' }
  const actions = made.actions.filter(({ type }) => (FORM_ACTIONS as readonly string[]).includes(type))
  const forms = { made: { id: 'made', name: 'Made', actions } }
  const outcomes = { ...playbook().outcomes, made: outcome }
  const book = { ...playbook(), afterLast: AFTER_LAST, outcomes, forms }
  for (const [index, given] of acts.entries()) {
    now += given.hours * HOUR
    world = { ...world, now }
    const event = doIt(given, world, now, `h${index}`)
    if (!event) continue
    const { effects } = react(event, world, book, newId)
    const after = evolve(world, effects)
    look({ book, before: world, event, effects, after })
    world = after
  }
  return world
}
const lives = fc.record({ acts: fc.array(act, { minLength: 1, maxLength: 40 }), made: madeOutcome })
const RUNS = { numRuns: 300 }

describe('the laws', () => {
  it('1. no dead ends: every prospect touched in an open or paused stage has a next action', () => {
    fc.assert(
      fc.property(lives, (acts) => {
        live(acts, ({ event, effects, after }) => {
          if (!effects.length) return
          const person = after.prospect[event.prospectId]!
          const kind = book.stages[person.stageId]!.kind
          if ((kind !== 'open' && kind !== 'paused') || whyStopped(after, person, false)) return
          const next =
            ofProspect(after, 'task', person.id).some((task) => task.status === 'open') ||
            openEnrollments(after, person.id).some((row) => row.status !== 'paused') ||
            waitingActions(after, person.id).some((row) => row.action.type === 'startCadence') ||
            ofProspect(after, 'emailMessage', person.id).some((row) => row.status === 'queued')
          expect(next, `${event.kind} left ${person.id} with nothing`).toBe(true)
        })
      }),
      RUNS,
    )
  })
  it('2. a stop is a stop: no email is queued and no call scheduled for a stopped prospect', () => {
    fc.assert(
      fc.property(lives, (acts) => {
        live(acts, ({ effects, after }) => {
          for (const effect of effects) {
            const row = effect.after as { prospectId?: string; status?: string; kind?: string } | null
            const person = row?.prospectId ? after.prospect[row.prospectId] : null
            if (!person) continue
            if (effect.kind === 'queueEmail') expect(person.stopEmail).toBe(false)
            if (effect.kind === 'queueEmail' && row!.kind === 'step') expect(whyStopped(after, person, true)).toBeNull()
            if (effect.kind === 'createTask' && row!.kind === 'call') {
              expect(person.stopCall || companyOf(after, person)?.status === 'do_not_contact').toBe(false)
            }
          }
        })
      }),
      RUNS,
    )
  })
  it('3. once: a step makes one mail or task for an enrollment, however often it falls due', () => {
    fc.assert(
      fc.property(lives, (acts) => {
        const end = live(acts, () => {})
        for (const entity of ['emailMessage', 'task'] as const) {
          const keys = Object.values(end[entity])
            .filter((row) => row.stepId)
            .map((row) => `${row.enrollmentId}/${row.stepId}`)
          expect(new Set(keys).size).toBe(keys.length)
        }
      }),
      RUNS,
    )
  })
  it('3. once: an event that has been handled changes nothing more', () => {
    fc.assert(
      fc.property(lives, (acts) => {
        live(acts, ({ book, event, after }) => {
          if (
            event.kind === 'actionDue' ||
            event.kind === 'stepDue' ||
            event.kind === 'emailSent' ||
            event.kind === 'unsubscribed'
          ) {
            expect(react(event, after, book, counter()).effects).toEqual([])
          }
        })
      }),
      RUNS,
    )
  })
  it('4. company sense: a booked meeting takes everyone there out of their cadences', () => {
    fc.assert(
      fc.property(lives, (acts) => {
        live(acts, ({ event, effects, after }) => {
          if (event.kind !== 'callLogged' || event.outcomeId !== 'booked' || !effects.length) return
          const company = after.prospect[event.prospectId]!.companyId
          for (const person of Object.values(after.prospect)) {
            if (company && person.companyId === company) expect(openEnrollments(after, person.id)).toEqual([])
          }
        })
      }),
      RUNS,
    )
  })
  it('7. every change has a cause, and can be taken back whole', () => {
    fc.assert(
      fc.property(lives, (acts) => {
        live(acts, ({ before, effects, after }) => {
          for (const effect of effects) expect(effect.cause.source).toBeTruthy()
          expect(evolve(after, [...effects].reverse().map(inverse))).toEqual(before)
        })
      }),
      RUNS,
    )
  })
  it('10. the preview is the act: computed twice with other ids it says the same', () => {
    fc.assert(
      fc.property(lives, (acts) => {
        live(acts, ({ book, before, event, effects }) => {
          let other = 0
          expect(signature(react(event, before, book, () => `other${other++}`).effects)).toBe(signature(effects))
          // A minute later it says the same, too, unless something has come due or has passed meanwhile.
          const later = react(
            { ...event, at: event.at + 60_000 },
            { ...before, now: before.now + 60_000 },
            book,
            () => `later${other++}`,
          )
          const near = [
            ...Object.values(before.task).map((task) => task.dueAt),
            ...Object.values(before.delayedAction).map((row) => row.runAt),
            // A time the event itself names (a move to a later moment) has passed, too.
            ...('dueAt' in event && event.dueAt !== null ? [event.dueAt] : []),
          ]
          if (!near.some((at) => Math.abs(at - event.at) <= 60_000)) {
            expect(signature(later.effects)).toBe(signature(effects))
          }
        })
      }),
      RUNS,
    )
  })
})

describe('taking back', () => {
  const newId = counter()
  const about = { at: NOW, prospectId: 'ann', actorId: 'rep', causedByEventId: null }
  const after = (world: EngineState, event: DomainEvent) => {
    const { effects } = react(event, world, book, newId)
    return { world: evolve(world, effects), effects }
  }
  it('leaves mail that has gone, and says so', () => {
    const enrolled = after(state(), { ...about, id: '1', kind: 'enrolled', cadenceId: 'mixed' })
    const enrollmentId = Object.keys(enrolled.world.enrollment)[0]!
    const due = after(enrolled.world, { ...about, id: '2', kind: 'stepDue', enrollmentId })
    const messageId = Object.keys(due.world.emailMessage)[0]!
    const sent = after(due.world, { ...about, id: '3', kind: 'emailSent', messageId })
    const { effects, skipped } = undoEffects(
      [...[...sent.effects].reverse(), ...[...due.effects].reverse()],
      sent.world,
      book.names,
    )
    expect(skipped).toEqual(['The email that has gone out stays sent'])
    const end = evolve(sent.world, effects)
    expect(end.emailMessage[messageId]!.status).toBe('sent')
    expect(end.enrollment[enrollmentId]).toMatchObject({ status: 'waiting', stepId: 'mixed-0' })
    // The step that falls due again does not send again: the law of once holds after a taking back, too.
    const again = after(end, { ...about, id: '4', kind: 'stepDue', enrollmentId })
    expect(Object.keys(again.world.emailMessage)).toEqual([messageId])
    expect(again.world.enrollment[enrollmentId]!.stepId).toBe('mixed-1')
  })
  it('keeps what has been changed since, and says so', () => {
    const logged = after(state(), {
      ...about,
      id: '1',
      kind: 'callLogged',
      outcomeId: 'noAnswer',
      taskId: null,
      phoneId: null,
      details: {},
    })
    const moved = after(logged.world, {
      ...about,
      id: '2',
      kind: 'stageMoved',
      to: 'talking',
      reason: null,
      note: null,
      override: null,
    })
    const { effects, skipped } = undoEffects([...logged.effects].reverse(), moved.world, book.names)
    expect(skipped).toEqual(['The person has been changed since and stays as it is'])
    expect(evolve(moved.world, effects).prospect.ann!.stageId).toBe('talking')
  })
})

describe('a booked meeting', () => {
  it('leaves colleagues alone whose cadence says that only who booked leaves', () => {
    const newId = counter()
    const only = {
      ...book,
      cadences: {
        ...book.cadences,
        calls: { ...book.cadences.calls!, exits: { ...DEFAULT_EXITS, booked: 'person' as const } },
      },
    }
    let world = state()
    for (const [prospectId, cadenceId] of [
      ['ann', 'mixed'],
      ['ben', 'mixed'],
      ['cy', 'calls'],
    ] as const) {
      world = evolve(
        world,
        react(
          { id: prospectId, at: NOW, prospectId, actorId: 'rep', causedByEventId: null, kind: 'enrolled', cadenceId },
          world,
          only,
          newId,
        ).effects,
      )
    }
    const booked = react(
      {
        id: 'b',
        at: NOW,
        prospectId: 'ann',
        actorId: 'rep',
        causedByEventId: null,
        kind: 'callLogged',
        outcomeId: 'booked',
        taskId: null,
        phoneId: null,
        details: { meeting: { title: 'Look', startAt: NOW + HOUR, minutes: 30, timeZone: 'UTC' } },
      },
      world,
      only,
      newId,
    )
    const after = evolve(world, booked.effects)
    expect(['ann', 'ben', 'cy'].map((id) => openEnrollments(after, id).length)).toEqual([0, 0, 1])
  })
})

describe('gates', () => {
  const about = { id: '1', at: NOW, prospectId: 'ann', actorId: 'rep', causedByEventId: null }
  it('hold a move that lacks attempts or a reason, and let a manager through with one', () => {
    const move = (to: string, more: object = {}) =>
      react(
        { ...about, kind: 'stageMoved', to, reason: null, note: null, override: null, ...more },
        state(),
        book,
        counter(),
      )
    expect(move('unreached').problems).toEqual([
      { field: 'stage', message: 'Unreached requires 3 attempts or a conversation; 0 so far' },
    ])
    expect(move('lost').problems).toHaveLength(1)
    expect(move('lost', { reason: 'no budget' }).problems).toEqual([])
    expect(move('unreached', { override: 'asked us to stop trying' }).effects[0]).toMatchObject({
      kind: 'moveStage',
      cause: { source: 'person', rule: 'gateOverridden' },
    })
  })
  it('demand fields, custom ones among them, as long as there are such', () => {
    const fields = ['title', 'email', 'custom:f1', 'company:custom:f2', 'custom:gone']
    const demanding = { ...book, stages: { ...book.stages, meeting: { ...book.stages.meeting!, gate: { fields } } } }
    const move = (more: object) =>
      react(
        { ...about, kind: 'stageMoved', to: 'meeting', reason: null, note: null, override: null },
        { ...state(), ...more },
        demanding,
        counter(),
      ).problems.map((problem) => problem.message)
    expect(move({})).toEqual(
      ['job title', 'Cellar size', 'Contract until'].map((name) => `Meeting set requires “${name}”`),
    )
    const titled = {
      prospect: { ...state().prospect, ann: { ...state().prospect.ann!, title: 'Cellar master' } },
    }
    const values = (given: Parameters<typeof customValues>[0]) => ({ ...titled, customValue: customValues(given) })
    expect(move(values({ ann: { 'custom:f1': 0, 'company:custom:f2': false } }))).toEqual([])
    expect(
      move(values({ ben: { 'custom:f1': 3, 'company:custom:f2': '2027-01-01' }, ann: { 'custom:f1': 3 } })),
    ).toHaveLength(1)
  })
  it('do nothing at all where an outcome cannot pass them', () => {
    const strict = {
      ...book,
      outcomes: {
        ...book.outcomes,
        park: { ...book.outcomes.noAnswer!, id: 'park', actions: [{ type: 'moveStage' as const, to: 'unreached' }] },
      },
    }
    const { effects, problems } = react(
      { ...about, kind: 'callLogged', outcomeId: 'park', taskId: null, phoneId: null, details: {} },
      state(),
      strict,
      counter(),
    )
    expect(effects).toEqual([])
    expect(problems[0]!.message).toMatch(/Unreached requires 3 attempts/)
  })
})
