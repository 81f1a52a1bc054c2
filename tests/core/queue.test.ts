import { DateTime } from 'luxon'
import { describe, expect, it } from 'vitest'
import { allotSlots, type Sender } from '../../core/cadence/allot'
import { planFrom } from '../../core/cadence/plan'
import { compareItems, groupOf } from '../../core/queue/groups'
import { dayRidge } from '../../core/queue/ridge'
import { thread } from '../../core/queue/thread'
import { agoInWords, whyInWords } from '../../core/queue/why'
import { NOW, playbook } from '../world/situations'

const ZONE = 'America/New_York'
const HOUR = 3_600_000
const ny = { zone: ZONE, country: 'US', region: 'NY' }
const iso = (at: number) => DateTime.fromMillis(at, { zone: ZONE }).toFormat('yyyy-MM-dd HH:mm')

describe('the queue', () => {
  const item = (lane: number, dueIn: number, callable = true) => ({ lane, kind: 'call', dueAt: NOW + dueIn, callable })
  it('puts answers first, then what yesterday left, then what is due now', () => {
    expect([item(0, -HOUR), item(2, -24 * HOUR), item(2, -HOUR), item(2, HOUR), item(2, -HOUR, false)].map(one => groupOf(one, NOW, ZONE))).toEqual(['answer', 'overdue', 'due', 'later', 'later'])
  })
  it('works promised call backs before cadence steps, longest due first', () => {
    const [late, step, promised] = [item(2, -3 * HOUR), item(2, -HOUR), item(1, -HOUR)]
    expect([step, late, promised].sort((a, b) => compareItems(a, b, NOW, ZONE))).toEqual([promised, late, step])
  })
  it('says why in words', () => {
    const facts = { title: 'First call', dueAt: NOW - 12 * 60_000, step: 2, steps: 5, attempts: 1, everReached: false }
    expect(whyInWords({ ...facts, kind: 'call' }, NOW)).toBe('step 2 of 5, 1 call, never reached')
    expect(whyInWords({ ...facts, kind: 'reply' }, NOW)).toBe('replied 12 min ago')
    expect([NOW - 1000, NOW - 5 * HOUR, NOW - 30 * HOUR, NOW - 80 * HOUR].map(at => agoInWords(at, NOW))).toEqual(['just now', '5 h ago', 'yesterday', '3 days ago'])
  })
})

describe('the day ridge', () => {
  const office = { days: [1, 2, 3, 4, 5], from: 540, to: 1020 }
  it('counts people in the half hours in which they may be rung, by their own clocks', () => {
    const slots = dayRidge([{ place: { zone: 'America/Los_Angeles', country: null, region: null }, dueAt: NOW - HOUR, count: 3 }, { place: ny, dueAt: NOW + HOUR, count: 2 }], [NOW - 2 * HOUR], NOW, ZONE, office, {})
    const open = Object.fromEntries(slots.map(slot => [iso(slot.at).slice(11), slot.open]))
    // Nine in Los Angeles is noon in New York; what is due at 11:42 counts in the half hour that ends after it.
    expect(open).toMatchObject({ '09:00': 0, '11:00': 0, '11:30': 2, '12:00': 5, '16:30': 5, '17:00': 3, '17:30': 3 })
    expect(slots.reduce((sum, slot) => sum + slot.done, 0)).toBe(1)
  })
})

describe('the thread', () => {
  it('sags from the edge where the silence began before it, as deep as all its days', () => {
    const day = 86_400_000
    const drawn = thread([{ at: NOW - 400 * day, kind: 'call' }, { at: NOW - 300 * day, kind: 'visit' }], NOW - 180 * day, NOW, 30)
    expect(drawn.knots).toEqual([])
    expect(drawn.sags).toEqual([{ from: 0, to: 1, depth: 1, days: 300, broken: true }])
    expect(thread([], NOW - 180 * day, NOW, 30, NOW - 300 * day).sags).toEqual([{ from: 0, to: 1, depth: 1, days: 300, broken: true }])
    expect(thread([{ at: NOW - 90 * day, kind: 'call' }], NOW - 180 * day, NOW, 60, NOW - 135 * day).sags).toMatchObject([{ from: 0.25, to: 0.5, days: 45, broken: false }, { from: 0.5, to: 1, days: 90, broken: true }])
    expect(thread([{ at: NOW - 190 * day, kind: 'call' }], NOW - 180 * day, NOW, 30, NOW - 500 * day).sags).toMatchObject([{ days: 190 }])
    expect(thread([{ at: NOW - 190 * day, kind: 'call' }, { at: NOW - 170 * day, kind: 'call' }], NOW - 180 * day, NOW, 30).sags[0]).toMatchObject({ from: 0, days: 20, broken: false })
  })
  it('sags to the promise exactly when it is due, and breaks beyond', () => {
    const day = 24 * HOUR
    const drawn = thread([{ at: NOW - 90 * day, kind: 'call' }, { at: NOW - 60 * day, kind: 'email' }], NOW - 100 * day, NOW, 30)
    expect(drawn.sags.map(sag => [Math.round(sag.days), sag.broken])).toEqual([[30, false], [60, true]])
    expect(drawn.sags[0]!.depth).toBeCloseTo(drawn.promise)
    expect(drawn.knots.map(knot => knot.x)).toEqual([0.1, 0.4])
  })
})

describe('a plan', () => {
  it('puts every step on its real date, and says what pushed it', () => {
    const book = playbook()
    const planned = planFrom(book.cadences.mixed!, null, DateTime.fromISO('2026-11-25T16:30', { zone: ZONE }).toMillis(), book.callHours, ny, { US: { '2026-11-26': 'Thanksgiving Day' } })
    expect(planned.map(one => [iso(one.at), one.moved])).toEqual([['2026-11-25 16:30', null], ['2026-11-27 08:00', 'after Thanksgiving Day'], ['2026-11-30 08:00', null], ['2026-12-01 08:00', null]])
  })
})

describe('slots for mail', () => {
  const sender: Sender = { zone: ZONE, cap: 3, spacing: 60, day: null, given: 0, lastSlotAt: null }
  const wanted = (count: number) => Array.from({ length: count }, (_, index) => ({ id: `m${index}`, window: { days: [1, 2, 3, 4, 5], from: 480, to: 1020 }, place: ny }))
  it('keep the sender’s spacing and daily cap, and go on the next business day', () => {
    const { slots, sender: used } = allotSlots(wanted(5), sender, NOW, {})
    expect(Object.values(slots).map(iso)).toEqual(['2026-11-23 10:42', '2026-11-23 10:43', '2026-11-23 10:44', '2026-11-24 08:00', '2026-11-24 08:01'])
    expect(used).toMatchObject({ day: '2026-11-24', given: 2 })
  })
  it('never lie outside the recipient’s window', () => {
    const late = DateTime.fromISO('2026-11-23T16:59', { zone: ZONE }).toMillis()
    expect(Object.values(allotSlots(wanted(3), { ...sender, cap: 99 }, late, {}).slots).map(iso)).toEqual(['2026-11-23 16:59', '2026-11-24 08:00', '2026-11-24 08:01'])
  })
})
