import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  beadStrings,
  blockInWords,
  countBeads,
  isToCall,
  stateOf,
  type Bead,
  type CallsOfOne,
} from '../../../core/blocks/beads'
import { phoneFor, whyNotInBlock, type BlockRules, type Candidate } from '../../../core/blocks/whoFits'
import { BLOCK_STATES, type BlockState } from '../../../core/enumerations'

const one = (given: Partial<CallsOfOne> = {}): CallsOfOne => ({
  calls: 0,
  reached: false,
  message: false,
  meeting: false,
  skipped: false,
  ...given,
})

describe('how far someone is in a block', () => {
  it.each<[Partial<CallsOfOne>, BlockState]>([
    [{}, 'to_call'],
    [{ calls: 1 }, 'tried'],
    [{ calls: 2, message: true }, 'message'],
    [{ calls: 2, message: true, reached: true }, 'reached'],
    [{ calls: 1, reached: true, meeting: true }, 'meeting'],
    [{ skipped: true }, 'skipped'],
    [{ calls: 1, message: true, skipped: true }, 'skipped'],
    [{ calls: 1, reached: true, skipped: true }, 'reached'],
  ])('%o is %s', (given, state) => {
    expect(stateOf(one(given))).toBe(state)
  })
  it('a message is no conversation: the second pass calls them, and not those who were reached or skipped', () => {
    expect([1, 2].map((pass) => isToCall(one({ calls: 1, message: true }), pass))).toEqual([false, true])
    expect(isToCall(one({ calls: 1, reached: true }), 2)).toBe(false)
    expect(isToCall(one({ skipped: true }), 2)).toBe(false)
  })
})

const bead = (prospectId: string, given: Partial<Bead> = {}): Bead => ({
  prospectId,
  name: prospectId,
  state: 'to_call',
  callerId: null,
  inHand: false,
  dialer: null,
  open: true,
  ...given,
})

describe('the strings of a block', () => {
  it('are one for each caller, and one of those whom nobody has', () => {
    const beads = [bead('a', { callerId: 'imani' }), bead('b', { callerId: 'joaquin' }), bead('c')]
    expect(
      beadStrings(beads, ['imani', 'joaquin']).map(({ callerId, beads: on }) => [callerId, on.map((b) => b.name)]),
    ).toEqual([
      ['imani', ['a']],
      ['joaquin', ['b']],
      [null, ['c']],
    ])
  })
  it('are a single one where one caller has all', () => {
    expect(beadStrings([bead('a', { callerId: 'imani' }), bead('b')], ['imani'])).toHaveLength(1)
  })
  it('have everyone once', () => {
    const people = fc.array(fc.constantFrom(null, 'imani', 'joaquin', 'left'), { maxLength: 40 })
    fc.assert(
      fc.property(people, fc.subarray(['imani', 'joaquin'], { minLength: 1 }), (callers, now) => {
        const beads = callers.map((callerId, index) => bead(String(index), { callerId }))
        const hung = beadStrings(beads, now).flatMap((string) => string.beads.map(({ prospectId }) => prospectId))
        expect(hung.sort()).toEqual(beads.map(({ prospectId }) => prospectId).sort())
      }),
    )
  })
})

describe('a block in words', () => {
  const words = (states: BlockState[]) =>
    blockInWords(countBeads(states.map((state) => ({ state, open: state === 'to_call' }))))
  it.each<[BlockState[], string]>([
    [[], '0 people'],
    [['to_call'], '1 person; 1 to call'],
    [['to_call', 'to_call'], '2 people; 2 to call'],
    [
      ['to_call', 'reached', 'meeting', 'message', 'tried', 'tried', 'skipped'],
      '5 of 7 called: 2 reached, 1 meeting, 1 message left, 2 without an answer; 1 to call, 1 skipped',
    ],
    [['reached', 'skipped'], '1 of 2 called: 1 reached; nobody left to call, 1 skipped'],
  ])('%o', (states, sentence) => {
    expect(words(states)).toBe(sentence)
  })
  it('counts everyone once', () => {
    const states = fc.array(fc.constantFrom(...(Object.keys(BLOCK_STATES) as BlockState[])))
    fc.assert(
      fc.property(states, (given) => {
        const { open: _, ...counts } = countBeads(given.map((state) => ({ state, open: false })))
        expect(Object.values(counts).reduce((sum, count) => sum + count, 0)).toBe(given.length)
      }),
    )
  })
})

describe('who is called in a block', () => {
  const ANY: BlockRules = { phoneKinds: [], phoneStatuses: [], phoneTags: [], attempts: null, cold: true }
  const phone = (
    id: string,
    kind: 'work' | 'mobile',
    status: 'correct' | 'unverified' | 'wrong',
    tags: string[] = [],
  ) => ({
    id,
    kind,
    status,
    tags,
  })
  const candidate = (given: Partial<Candidate> = {}): Candidate => ({
    merged: false,
    stopCall: false,
    status: 'active',
    stageKind: 'open',
    companyStatus: 'open',
    attempts: 1,
    phones: [phone('p', 'work', 'correct')],
    ...given,
  })
  it.each<[string, Partial<Candidate>, Partial<BlockRules>, string | null]>([
    ['who can be called', {}, {}, null],
    ['who was merged', { merged: true }, {}, 'Merged into another record'],
    ['who wants no calls', { stopCall: true }, {}, 'Do not call'],
    ['who is paused', { status: 'paused' }, {}, 'Paused'],
    ['who is archived', { status: 'archived' }, {}, 'Archived'],
    [
      'whose company is stopped',
      { companyStatus: 'do_not_contact' },
      { cold: false },
      'Their company is not to be contacted',
    ],
    ['who works at a customer', { companyStatus: 'customer' }, {}, 'Their company is a customer'],
    ['who works at a customer, for service', { companyStatus: 'customer' }, { cold: false }, null],
    ['whose stage is closed', { stageKind: 'closed' }, {}, 'Their stage is closed'],
    ['who was tried too often', {}, { attempts: { from: 2, to: 3 } }, 'Not 2 to 3 attempts so far'],
    ['who was tried', {}, { attempts: { from: 0, to: 0 } }, 'Not 0 attempts so far'],
    ['without a number', { phones: [] }, {}, 'No number to call'],
    ['with a wrong number', { phones: [phone('p', 'work', 'wrong')] }, {}, 'No number to call'],
    ['without a mobile number', {}, { phoneKinds: ['mobile'] }, 'No number of those that are called'],
  ])('%s', (_, given, rules, why) => {
    expect(whyNotInBlock(candidate(given), { ...ANY, ...rules })).toBe(why)
  })
  it('is called at the first number that the block allows, with all the tags it asks for', () => {
    const phones = [
      phone('wrong', 'mobile', 'wrong', ['direct']),
      phone('desk', 'work', 'correct', ['assistant']),
      phone('cell', 'mobile', 'unverified', ['direct', 'evening']),
    ]
    expect(phoneFor(phones, ANY)?.id).toBe('desk')
    expect(phoneFor(phones, { ...ANY, phoneKinds: ['mobile'] })?.id).toBe('cell')
    expect(phoneFor(phones, { ...ANY, phoneTags: ['direct', 'evening'] })?.id).toBe('cell')
    expect(phoneFor(phones, { ...ANY, phoneTags: ['direct', 'assistant'] })).toBeNull()
    expect(phoneFor(phones, { ...ANY, phoneStatuses: ['unverified'] })?.id).toBe('cell')
  })
})
