import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { evolve, type Effect } from '../../../core/engine/state/effects'
import type { DomainEvent } from '../../../core/engine/state/events'
import { breadthOfEvent } from '../../../core/engine/breadth'
import { react, reactAll } from '../../../core/engine/react'
import { companyOf, type EntityName, type EngineState } from '../../../core/engine/state/engineState'
import { counter, NOW, playbook, state } from '../../fixtures/engineStates'

const book = playbook()
const HOUR = 3_600_000
const PEOPLE = ['ann', 'ben', 'cy', 'dee'] as const

/** Events that need nothing but the person: what the others left may make them refused. */
const event = fc
  .record({
    who: fc.constantFrom(...PEOPLE),
    cadence: fc.constantFrom('mixed', 'calls'),
    outcome: fc.constantFrom(...Object.keys(book.outcomes)),
    what: fc.constantFrom('enroll', 'log', 'reply', 'unsubscribe', 'stop', 'lift', 'move', 'status'),
    complete: fc.boolean(),
    pick: fc.nat(3),
  })
  .map((given): Omit<Extract<DomainEvent, { kind: DomainEvent['kind'] }>, 'id'> => {
    const about = { at: NOW, prospectId: given.who, actorId: 'rep', causedByEventId: null }
    const details = given.complete
      ? {
          callBackAt: NOW + 5 * HOUR,
          reason: 'no need',
          note: 'said so',
          meeting: { title: 'Look', startAt: NOW + 48 * HOUR, minutes: 30, timeZone: 'UTC' },
          referral: { firstName: 'Eve', lastName: 'Y' },
        }
      : {}
    switch (given.what) {
      case 'enroll':
        return { ...about, kind: 'enrolled', cadenceId: given.cadence } as never
      case 'log':
        return { ...about, kind: 'callLogged', outcomeId: given.outcome, taskId: null, phoneId: null, details } as never
      case 'reply':
        return { ...about, kind: 'emailReplied', messageId: null } as never
      case 'unsubscribe':
        return { ...about, kind: 'unsubscribed' } as never
      case 'stop':
        return {
          ...about,
          kind: 'stopSet',
          channel: (['call', 'email', 'all'] as const)[given.pick % 3]!,
          on: true,
        } as never
      case 'lift':
        return { ...about, kind: 'stopSet', channel: 'all', on: false } as never
      case 'move':
        return {
          ...about,
          kind: 'stageMoved',
          to: Object.keys(book.stages)[given.pick]!,
          reason: null,
          quality: null,
          succeeded: null,
          note: null,
          override: given.complete ? 'agreed' : null,
        } as never
      default:
        return { ...about, kind: 'companyStatusSet', to: given.pick % 2 ? 'not_a_fit' : 'open' } as never
    }
  })
const eventLists = fc
  .array(event, { minLength: 1, maxLength: 25 })
  .map((all) => all.map((one, index) => ({ ...one, id: `h${index}` }) as DomainEvent))

function oneByOne(events: readonly DomainEvent[], start: EngineState) {
  const newId = counter()
  let world = start
  const reactions = events.map((one) => {
    const reaction = react(one, world, book, newId)
    world = evolve(world, reaction.effects)
    return { event: one, reaction }
  })
  return { reactions, state: world }
}

const reachesCompany = (...asked: Parameters<typeof breadthOfEvent>) => breadthOfEvent(...asked).colleagues

describe('a batch', () => {
  it('comes to the same as its events one by one, refused ones between them included', () => {
    fc.assert(
      fc.property(eventLists, (events) => {
        expect(reactAll(events, state(), book, counter())).toEqual(oneByOne(events, state()))
      }),
      { numRuns: 300 },
    )
  })
  it('leaves the state it was given as it was', () => {
    fc.assert(
      fc.property(eventLists, (events) => {
        const given = state()
        const before = structuredClone(given)
        reactAll(events, given, book, counter())
        expect(given).toEqual(before)
      }),
    )
  })
})

/** Rows of two hundred people elsewhere: enough for the tables to be looked up instead of searched. */
function amongMany(start: EngineState): EngineState {
  const strangers = Array.from({ length: 200 }, (_, n) => `stranger${n}`)
  const rows = <T>(make: (id: string) => T) => Object.fromEntries(strangers.map((id) => [`of-${id}`, make(id)]))
  const touch = {
    kind: 'call',
    at: NOW,
    userId: null,
    outcomeId: null,
    countsAs: 'attempt',
    reason: null,
    quality: null,
    succeeded: null,
    phoneId: null,
    enrollmentId: null,
    stepId: null,
    messageId: null,
  } as const
  return {
    ...start,
    emailAddress: {
      ...rows((id) => ({
        id: `of-${id}`,
        prospectId: id,
        address: `${id}@x.example`,
        status: 'ok' as const,
        position: 0,
      })),
      ...start.emailAddress,
    },
    phone: {
      ...rows((id) => ({
        id: `of-${id}`,
        prospectId: id,
        number: '+12125550100',
        kind: 'work',
        status: 'correct' as const,
        textConsent: 'unknown' as const,
        position: 0,
      })),
      ...start.phone,
    },
    touch: { ...rows((id) => ({ id: `of-${id}`, prospectId: id, ...touch })), ...start.touch },
    task: {
      ...rows((id) => ({
        id: `of-${id}`,
        prospectId: id,
        ownerId: 'rep',
        kind: 'call' as const,
        priority: 2,
        title: 'Call',
        dueAt: NOW,
        status: 'open' as const,
        doneAt: null,
        enrollmentId: null,
        stepId: null,
        messageId: null,
        timeZone: 'UTC',
      })),
      ...start.task,
    },
  }
}

describe('among many', () => {
  it('the same follows, in the same order, as among few', () => {
    fc.assert(
      fc.property(eventLists, (events) => {
        const many = reactAll(events, amongMany(state()), book, counter())
        expect(many.reactions).toEqual(reactAll(events, state(), book, counter()).reactions)
        expect(oneByOne(events, amongMany(state())).reactions).toEqual(many.reactions)
      }),
      { numRuns: 60 },
    )
  })
})

/** Whom a set of effects concerns, by prospect; a company's change concerns everyone there. */
function concerned(effects: readonly Effect[], before: EngineState, after: EngineState): Set<string> {
  return new Set(
    effects.flatMap(({ entity, id, after: now }) => {
      if (entity === 'company') {
        return Object.values(before.prospect)
          .filter((person) => person.companyId === id)
          .map((person) => person.id)
      }
      if (entity === 'prospect') return [id]
      if (entity === 'turn') return []
      const row =
        after[entity as Exclude<EntityName, 'company' | 'prospect' | 'turn'>][id] ??
        (now as { prospectId?: string } | null)
      return row?.prospectId ? [row.prospectId] : []
    }),
  )
}

describe('what stays with one person', () => {
  // This is what lets the server lock and read one person where nobody else can be touched.
  it('touches nobody else who was there, in any state', () => {
    fc.assert(
      fc.property(eventLists, event, (events, last) => {
        const { state: before } = oneByOne(events, state())
        const one = { ...last, id: 'last' } as DomainEvent
        if (reachesCompany(one, book)) return
        const { effects } = react(one, before, book, counter('new'))
        const others = [...concerned(effects, before, evolve(before, effects))].filter(
          (id) => id !== one.prospectId && before.prospect[id],
        )
        expect(others).toEqual([])
      }),
      { numRuns: 500 },
    )
  })
  it('is the same without the colleagues in sight', () => {
    fc.assert(
      fc.property(eventLists, event, (events, last) => {
        const { state: before } = oneByOne(events, state())
        const one = { ...last, id: 'last' } as DomainEvent
        if (reachesCompany(one, book)) return
        const company = companyOf(before, before.prospect[one.prospectId]!)
        const mine = <T extends { prospectId: string }>(rows: Readonly<Record<string, T>>) =>
          Object.fromEntries(Object.entries(rows).filter(([, row]) => row.prospectId === one.prospectId))
        const alone: EngineState = {
          ...before,
          prospect: { [one.prospectId]: before.prospect[one.prospectId]! },
          company: company ? { [company.id]: company } : {},
          emailAddress: mine(before.emailAddress),
          phone: mine(before.phone),
          enrollment: mine(before.enrollment),
          meeting: mine(before.meeting),
          emailMessage: mine(before.emailMessage),
          task: mine(before.task),
          touch: mine(before.touch),
          deal: mine(before.deal),
        }
        expect(react(one, alone, book, counter('new'))).toEqual(react(one, before, book, counter('new')))
      }),
      { numRuns: 500 },
    )
  })
  it('follows from the actions of an outcome', () => {
    const outcome = (actions: object[]) => ({
      ...book,
      outcomes: { x: { ...Object.values(book.outcomes)[0]!, id: 'x', actions: actions as never } },
    })
    const logged = { kind: 'callLogged' as const, outcomeId: 'x' }
    expect(
      reachesCompany(logged, outcome([{ type: 'advance' }, { type: 'exit', scope: 'all', as: 'unreached' }])),
    ).toBe(false)
    expect(reachesCompany(logged, outcome([{ type: 'exit', scope: 'company', as: 'meeting_booked' }]))).toBe(true)
    expect(reachesCompany(logged, outcome([{ type: 'moveStage', to: 'closed', scope: 'company' }]))).toBe(true)
    expect(reachesCompany(logged, outcome([{ type: 'setCompanyStatus', to: 'not_a_fit' }]))).toBe(true)
    expect(reachesCompany({ kind: 'callLogged', outcomeId: 'unknown' }, book)).toBe(false)
    expect(reachesCompany({ kind: 'emailReplied' }, book)).toBe(true)
    expect(reachesCompany({ kind: 'stepDue' }, book)).toBe(false)
  })
})
