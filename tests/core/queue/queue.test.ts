import fc from 'fast-check'
import { DateTime } from 'luxon'
import { describe, expect, it } from 'vitest'
import { planFrom } from '../../../core/cadence/plan'
import { QUEUE_GROUPS } from '../../../core/queue/groupNames'
import { compareItems, groupOf, type QueueItem } from '../../../core/queue/groups'
import { dayRidge } from '../../../core/queue/ridge'
import { thread } from '../../../core/queue/thread'
import { agoInWords, whyInWords } from '../../../core/queue/why'
import { NOW, OFFICE_HOURS, playbook } from '../../fixtures/engineStates'

const TIME_ZONE = 'America/New_York'
const HOUR = 3_600_000
const ny = { timeZone: TIME_ZONE, country: 'US', region: 'NY' }
const iso = (at: number) => DateTime.fromMillis(at, { zone: TIME_ZONE }).toFormat('yyyy-MM-dd HH:mm')

describe('the queue', () => {
  const item = (priority: number, dueIn: number, callable = true) => ({
    priority,
    kind: 'call',
    dueAt: NOW + dueIn,
    callable,
    reached: false,
  })
  it('puts answers first, then what yesterday left, then what is due now', () => {
    expect(
      [
        item(0, -HOUR),
        { ...item(2, -24 * HOUR), reached: true },
        item(2, -24 * HOUR),
        item(2, -HOUR),
        item(2, HOUR),
        item(2, HOUR + 1),
        item(2, -HOUR, false),
      ].map((one) => groupOf(one, NOW, TIME_ZONE)),
    ).toEqual(['answer', 'overdue_reached', 'overdue', 'due', 'soon', 'later', 'later'])
  })
  it('puts calls promised for now on top of everything, five minutes before their time', () => {
    const promised = (dueIn: number, callable = true) => ({
      priority: 1,
      kind: 'call_back',
      dueAt: NOW + dueIn,
      callable,
      reached: false,
    })
    expect(
      [promised(5 * 60_000), promised(-HOUR, false), promised(6 * 60_000)].map((one) => groupOf(one, NOW, TIME_ZONE)),
    ).toEqual(['promised', 'promised', 'soon'])
    const [answer, overdue] = [item(0, -HOUR), item(2, -24 * HOUR)]
    expect([overdue, answer, promised(-60_000)].sort((a, b) => compareItems(a, b, NOW, TIME_ZONE))).toEqual([
      promised(-60_000),
      answer,
      overdue,
    ])
  })
  it('keeps new people who wait for a first contact behind what is due, never overdue', () => {
    const fresh = { priority: 3, kind: 'first_contact', dueAt: NOW - 72 * HOUR, callable: true, reached: false }
    expect([groupOf(fresh, NOW, TIME_ZONE), groupOf({ ...fresh, callable: false }, NOW, TIME_ZONE)]).toEqual([
      'new',
      'later',
    ])
    const step = item(2, -HOUR)
    expect([fresh, step].sort((a, b) => compareItems(a, b, NOW, TIME_ZONE))).toEqual([step, fresh])
  })
  it('works promised call backs before cadence steps, longest due first', () => {
    const [late, step, promised] = [item(2, -3 * HOUR), item(2, -HOUR), item(1, -HOUR)]
    expect([step, late, promised].sort((a, b) => compareItems(a, b, NOW, TIME_ZONE))).toEqual([promised, late, step])
  })
  it('says why in words', () => {
    const facts = { title: 'First call', dueAt: NOW - 12 * 60_000, step: 2, steps: 5, attempts: 1, everReached: false }
    expect(whyInWords({ ...facts, kind: 'call' }, NOW)).toBe('step 2 of 5, 1 call, never reached')
    expect(whyInWords({ ...facts, kind: 'reply' }, NOW)).toBe('replied 12 min ago')
    expect([NOW - 1000, NOW - 5 * HOUR, NOW - 30 * HOUR, NOW - 80 * HOUR].map((at) => agoInWords(at, NOW))).toEqual([
      'just now',
      '5 h ago',
      'yesterday',
      '3 days ago',
    ])
  })
})

describe('the order of the queue', () => {
  const items = fc.array(
    fc.record({
      priority: fc.integer({ min: 0, max: 3 }),
      kind: fc.constant('call'),
      dueAt: fc.integer({ min: NOW - 72 * HOUR, max: NOW + 24 * HOUR }),
      callable: fc.boolean(),
      reached: fc.boolean(),
    }),
    { maxLength: 30 },
  )
  const sorted = (some: readonly QueueItem[]) => [...some].sort((a, b) => compareItems(a, b, NOW, TIME_ZONE))
  it('is the same however the work came in', () => {
    const order = (some: readonly QueueItem[]) =>
      sorted(some).map((one) => [one.priority, one.dueAt, groupOf(one, NOW, TIME_ZONE)])
    fc.assert(
      fc.property(items, (some) => {
        expect(order([...some].reverse())).toEqual(order(some))
      }),
    )
  })
  it('keeps groups together, answers on top, what opens later at the end', () => {
    fc.assert(
      fc.property(items, (some) => {
        const groups = sorted(some).map((one) => QUEUE_GROUPS.indexOf(groupOf(one, NOW, TIME_ZONE)))
        expect(groups).toEqual([...groups].sort((a, b) => a - b))
      }),
    )
  })
  it('shows only prospects who may be called, and nothing before its time', () => {
    fc.assert(
      fc.property(items, (some) => {
        for (const one of some) {
          if (['due', 'overdue', 'overdue_reached'].includes(groupOf(one, NOW, TIME_ZONE))) {
            expect(one.callable && one.dueAt <= NOW).toBe(true)
          }
        }
      }),
    )
  })
  it.each([
    [
      'call',
      { step: null, steps: null, title: 'Ring again', attempts: 0, everReached: false },
      'Ring again, not called yet',
    ],
    [
      'call',
      { step: 1, steps: 3, title: 'First', attempts: 2, everReached: false },
      'step 1 of 3, 2 calls, never reached',
    ],
    ['call', { step: 3, steps: 3, title: 'Last', attempts: 4, everReached: true }, 'step 3 of 3, spoken to before'],
    [
      'task',
      { step: 2, steps: 4, title: 'Send the sheet', attempts: 1, everReached: false },
      'step 2 of 4, Send the sheet',
    ],
    ['task', { step: null, steps: null, title: 'Send the sheet', attempts: 1, everReached: false }, 'Send the sheet'],
    ['call_back', { step: 2, steps: 4, title: 'Call back', attempts: 1, everReached: true }, 'promised a call back'],
    [
      'follow_up',
      { step: null, steps: null, title: 'Referred by Petra', attempts: 0, everReached: false },
      'Referred by Petra',
    ],
  ] as const)('says of a %s %j why: %s', (kind, facts, why) =>
    expect(whyInWords({ ...facts, kind, dueAt: NOW }, NOW)).toBe(why),
  )
})

describe('the day ridge', () => {
  it('counts every finished piece of work of the day once, and nobody outside calling hours', () => {
    const hours = { days: [1, 2, 3, 4, 5], from: 540, to: 1020 }
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: -2 * 60, max: 7 * 60 }), { maxLength: 20 }),
        fc.array(
          fc.record({
            timeZone: fc.constantFrom('America/New_York', 'America/Los_Angeles', 'Europe/Berlin', 'Asia/Kolkata'),
            dueIn: fc.integer({ min: -600, max: 600 }),
            count: fc.integer({ min: 1, max: 9 }),
          }),
          { maxLength: 6 },
        ),
        (done, due) => {
          const doneAt = done.map((minutes) => NOW + minutes * 60_000)
          const slots = dayRidge(
            due.map(({ timeZone, dueIn, count }) => ({
              place: { timeZone, country: null, region: null },
              dueAt: NOW + dueIn * 60_000,
              count,
              rings: true,
            })),
            doneAt,
            NOW,
            TIME_ZONE,
            hours,
            {},
          )
          expect(slots).toHaveLength(20)
          expect(slots.reduce((sum, slot) => sum + slot.done, 0)).toBe(
            doneAt.filter((at) => at >= slots[0]!.at && at < slots[19]!.at + 30 * 60_000).length,
          )
          for (const slot of slots) {
            const here = due.filter(({ timeZone }) => {
              const at = DateTime.fromMillis(slot.at, { zone: timeZone })
              const minute = at.hour * 60 + at.minute
              return at.weekday <= 5 && minute >= 540 && minute < 1020
            })
            expect(slot.open).toBeLessThanOrEqual(here.reduce((sum, one) => sum + one.count, 0))
          }
        },
      ),
      { numRuns: 40 },
    )
  })
  const office = { days: [1, 2, 3, 4, 5], from: 540, to: 1020 }
  it('counts prospects in the half hours in which they may be called, by their own clocks', () => {
    const slots = dayRidge(
      [
        {
          place: { timeZone: 'America/Los_Angeles', country: null, region: null },
          dueAt: NOW - HOUR,
          count: 3,
          rings: true,
        },
        { place: ny, dueAt: NOW + HOUR, count: 2, rings: true },
      ],
      [NOW - 2 * HOUR],
      NOW,
      TIME_ZONE,
      office,
      {},
    )
    const open = Object.fromEntries(slots.map((slot) => [iso(slot.at).slice(11), slot.open]))
    // Nine in Los Angeles is noon in New York; what is due at 11:42 counts in the half hour that ends after it.
    expect(open).toMatchObject({ '09:00': 0, '11:00': 0, '11:30': 2, '12:00': 5, '16:30': 5, '17:00': 3, '17:30': 3 })
    expect(slots.reduce((sum, slot) => sum + slot.done, 0)).toBe(1)
  })
  it('runs by the wall clock on a day when the clocks change', () => {
    // New York's clocks go forward on Sunday 2027-03-14 and back on 2026-11-01 (IANA tz database).
    for (const day of ['2027-03-14', '2026-11-01']) {
      const noon = DateTime.fromISO(`${day}T12:00`, { zone: TIME_ZONE }).toMillis()
      const slots = dayRidge([], [], noon, TIME_ZONE, office, {})
      expect(iso(slots[0]!.at).slice(11)).toBe('08:00')
      expect(iso(slots.at(-1)!.at).slice(11)).toBe('17:30')
    }
  })
})

describe('the thread', () => {
  it('covers all of its time without a gap, and hangs deeper the longer the silence', () => {
    const day = 86_400_000
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 0, max: 179 * day }), { maxLength: 15 }),
        fc.integer({ min: 1, max: 200 }),
        (ago, promised) => {
          const drawn = thread(
            ago.map((past) => ({ at: NOW - past, kind: 'call' as const })),
            NOW - 180 * day,
            NOW,
            promised,
            NOW - 400 * day,
          )
          expect(drawn.sags.reduce((sum, sag) => sum + sag.to - sag.from, 0)).toBeCloseTo(1)
          drawn.sags.slice(1).forEach((sag, index) => expect(sag.from).toBeCloseTo(drawn.sags[index]!.to))
          for (const sag of drawn.sags) {
            expect(sag.depth).toBeGreaterThan(0)
            expect(sag.depth).toBeLessThanOrEqual(1)
            expect(sag.broken).toBe(sag.days > promised)
          }
          const deep = [...drawn.sags].sort((a, b) => a.days - b.days).map((sag) => sag.depth)
          expect(deep).toEqual([...deep].sort((a, b) => a - b))
          expect(drawn.knots).toHaveLength(ago.length)
        },
      ),
    )
  })
  it('sags from the edge where the silence began before it, as deep as all its days', () => {
    const day = 86_400_000
    const drawn = thread(
      [
        { at: NOW - 400 * day, kind: 'call' },
        { at: NOW - 300 * day, kind: 'visit' },
      ],
      NOW - 180 * day,
      NOW,
      30,
    )
    expect(drawn.knots).toEqual([])
    expect(drawn.sags).toEqual([{ from: 0, to: 1, depth: 1, days: 300, broken: true }])
    expect(thread([], NOW - 180 * day, NOW, 30, NOW - 300 * day).sags).toEqual([
      { from: 0, to: 1, depth: 1, days: 300, broken: true },
    ])
    expect(
      thread([{ at: NOW - 90 * day, kind: 'call' }], NOW - 180 * day, NOW, 60, NOW - 135 * day).sags,
    ).toMatchObject([
      { from: 0.25, to: 0.5, days: 45, broken: false },
      { from: 0.5, to: 1, days: 90, broken: true },
    ])
    expect(
      thread([{ at: NOW - 190 * day, kind: 'call' }], NOW - 180 * day, NOW, 30, NOW - 500 * day).sags,
    ).toMatchObject([{ days: 190 }])
    expect(
      thread(
        [
          { at: NOW - 190 * day, kind: 'call' },
          { at: NOW - 170 * day, kind: 'call' },
        ],
        NOW - 180 * day,
        NOW,
        30,
      ).sags[0],
    ).toMatchObject({ from: 0, days: 20, broken: false })
  })
  it('sags to the touch goal exactly when it is due, and breaks beyond', () => {
    const day = 24 * HOUR
    const drawn = thread(
      [
        { at: NOW - 90 * day, kind: 'call' },
        { at: NOW - 60 * day, kind: 'email' },
      ],
      NOW - 100 * day,
      NOW,
      30,
    )
    expect(drawn.sags.map((sag) => [Math.round(sag.days), sag.broken])).toEqual([
      [30, false],
      [60, true],
    ])
    expect(drawn.sags[0]!.depth).toBeCloseTo(drawn.touchGoal)
    expect(drawn.knots.map((knot) => knot.x)).toEqual([0.1, 0.4])
  })
})

const HERE = { timeZone: TIME_ZONE, country: 'US' }
describe('a plan', () => {
  it('puts every step on its real date, and says what pushed it', () => {
    const book = playbook()
    const planned = planFrom(
      book.cadences.mixed!,
      null,
      DateTime.fromISO('2026-11-25T16:30', { zone: TIME_ZONE }).toMillis(),
      {
        teamHours: book.callHours,
        place: ny,
        sender: HERE,
        holidays: { US: { '2026-11-26': 'Thanksgiving Day' } },
      },
    )
    expect(planned.map((one) => [iso(one.at), one.moved])).toEqual([
      ['2026-11-25 16:30', null],
      ['2026-11-27 08:00', 'after Thanksgiving Day'],
      ['2026-11-30 08:00', null],
      ['2026-12-01 08:00', null],
    ])
  })
  it('says "after the weekend" only where a weekend lies between', () => {
    const friday = DateTime.fromISO('2026-12-04T18:00', { zone: TIME_ZONE }).toMillis()
    const moved = (days: number[]) => {
      const [cadence] = Object.values(playbook().cadences).filter((one) => one.steps[0]!.kind === 'email')
      const steps = [{ ...cadence!.steps[0]!, wait: { amount: 0, unit: 'hours' as const } }]
      const window = { ...OFFICE_HOURS, hours: { days, from: 480, to: 1020 } }
      return planFrom({ ...cadence!, steps, window }, null, friday, {
        teamHours: playbook().callHours,
        place: ny,
        sender: HERE,
        holidays: {},
      })[0]!.moved
    }
    expect([moved([1, 2, 3, 4, 5]), moved([1, 2, 3, 4, 5, 6])]).toEqual(['after the weekend', 'the next morning'])
  })
})
